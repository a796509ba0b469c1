import { readFileSync } from 'node:fs';
import path from 'node:path';
import { Contract } from '../../src/core/contract/contract.ts';
import { readDescription } from '../../src/core/contract/description.ts';

const DEMO = path.join(__dirname, '../../demo');

/** The description that files make, the first of them read; or why it cannot be used. */
export function described(files: Readonly<Record<string, string>>) {
  return readDescription(Object.keys(files)[0]!, (file) =>
    files[file] === undefined
      ? { message: `The file ${file} does not exist` }
      : { bytes: new TextEncoder().encode(files[file]) },
  );
}

export function contractOf(files: Readonly<Record<string, string>>): Contract {
  const read = described(files);
  if ('problem' in read) throw new Error(read.problem.message);
  return new Contract(read.description);
}

/** The description of the harbour. */
export function harbourContract(): Contract {
  const names = ['harbour', 'vessels', 'berths'].map((name) => `openapi/${name}.yaml`);
  return contractOf(Object.fromEntries(names.map((name) => [name, readFileSync(path.join(DEMO, name), 'utf8')])));
}
