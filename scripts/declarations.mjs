// Writes the types of the library into one file, dist/index.d.cts, which imports nothing.
import path from 'node:path';
import { rollup } from 'rollup';
import { dts } from 'rollup-plugin-dts';
import { root } from './bundle.mjs';

const rolled = await rollup({
  input: path.join(root, 'src/index.ts'),
  plugins: [dts({ tsconfig: path.join(root, 'tsconfig.json') })],
  onwarn: ({ message }) => {
    throw new Error(message);
  },
});
const { output } = await rolled.generate({ format: 'es' });
const imported = output.flatMap(({ imports }) => imports);
if (imported.length > 0) throw new Error(`the declarations of the library import ${imported.join(', ')}`);
await rolled.write({ file: path.join(root, 'dist/index.d.cts'), format: 'es' });
