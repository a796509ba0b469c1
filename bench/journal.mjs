// What the journal costs: 2,000 calls in order with it, and with the same program whose journal goes nowhere.
import { build } from 'esbuild';
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { inTurns, ms, note, timeOf } from './measure.mjs';
import { writeProject } from './project.mjs';

const here = path.dirname(fileURLToPath(import.meta.url));
const root = path.resolve(here, '..');
const CALLS = 2000;

const NOWHERE = `return { append: () => {}, storeBody: () => ({ sha256: '', size: 0, text: '' }), sync: async () => {}, close: async () => {} };`;

/** Leaves out everything that the journal writes. */
const withoutJournal = {
  name: 'without-journal',
  setup({ onLoad }) {
    onLoad({ filter: /journal-files\.ts$/ }, ({ path: file }) => {
      const text = readFileSync(file, 'utf8');
      const opening = 'return openStore(folder, exit, 0);';
      if (!text.includes(opening)) throw new Error('journal-files.ts opens its store in another way');
      return { contents: text.replace(opening, NOWHERE), loader: 'ts' };
    });
  },
};

/** The program in one file, so that the two differ in nothing else. */
async function bundled(folder, name, plugins) {
  const outfile = path.join(folder, `${name}.cjs`);
  await build({
    stdin: { contents: "import { start } from './src/cli/start.ts'; void start();", resolveDir: root },
    outfile,
    plugins,
    bundle: true,
    format: 'cjs',
    platform: 'node',
    target: 'node20',
    supported: { 'dynamic-import': false },
    define: { BATHARON_VERSION: '"bench"' },
    logLevel: 'error',
  });
  return outfile;
}

export async function measureJournal() {
  const programs = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  const [written, unwritten] = [
    await bundled(programs, 'with', []),
    await bundled(programs, 'without', [withoutJournal]),
  ];
  const server = spawn(process.execPath, [path.join(here, 'server.mjs')], { stdio: ['ignore', 'pipe', 'inherit'] });
  const port = await new Promise((resolve) => server.stdout.once('data', (data) => resolve(String(data).trim())));
  const folder = writeProject(`http://127.0.0.1:${port}`, CALLS);
  const timed = (program, command) => () =>
    timeOf(process.execPath, [program, command, 'many.chain.yaml'], { cwd: folder });
  const runs = [timed(written, 'run'), timed(unwritten, 'run'), timed(written, 'check')];
  const [withIt, withoutIt, check] = inTurns(7, ...runs);
  server.kill();
  for (const each of [folder, programs]) rmSync(each, { recursive: true });
  note(
    '2,000 calls with the journal, against none',
    (withIt - check) / (withoutIt - check),
    1.15,
    `${ms(withIt)} and ${ms(withoutIt)} less ${ms(check)}`,
  );
}
