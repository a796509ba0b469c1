import { statSync } from 'node:fs';
import path from 'node:path';
import { readNamedFile } from '../adapters/project-files.ts';
import { Contract } from '../core/contract/contract.ts';
import { readDescription, type DescriptionProblem } from '../core/contract/description.ts';
import type { FileRead } from '../core/expression/host.ts';

type Known = Readonly<{ contract: Contract | DescriptionProblem; stamps: ReadonlyMap<string, string> }> & {
  /** When its files were last seen to be as they were. */
  seenMs: number;
};

/** Descriptions by folder and file: a large one is read once for all chains that a command goes over. */
const known = new Map<string, Known>();

/** How long descriptions are taken to be as they were, in milliseconds: a command that watches looks again. */
const FRESH_MS = 500;

/** Gives the contract of a file of a project; read again when one of its files was changed. */
export function contractsIn(folder: string): (file: string) => Contract | DescriptionProblem {
  return (file) => {
    const key = path.resolve(folder, file);
    const before = known.get(key);
    const now = performance.now();
    if (before && now - before.seenMs < FRESH_MS) return before.contract;
    if (before && isSame(before.stamps)) {
      before.seenMs = now;
      return before.contract;
    }
    const stamps = new Map<string, string>();
    const read = readDescription(file, (name) => readStamped(path.resolve(folder, name), folder, key, stamps));
    const contract = 'problem' in read ? read.problem : new Contract(read.description);
    known.set(key, { contract, stamps, seenMs: now });
    return contract;
  };
}

/** A reference leads to files of the project, or below the folder of the description, and nowhere else. */
function readStamped(full: string, folder: string, description: string, stamps: Map<string, string>): FileRead {
  const isInside = (root: string) => full === root || full.startsWith(root + path.sep);
  if (full !== description && !isInside(path.resolve(folder)) && !isInside(path.dirname(description)))
    return { message: `${full} is outside of the project and of the folder of the description` };
  stamps.set(full, stampOf(full));
  return readNamedFile(full);
}

function stampOf(full: string): string {
  const { mtimeMs, size } = statSync(full, { throwIfNoEntry: false }) ?? { mtimeMs: 0, size: -1 };
  return `${mtimeMs} ${size}`;
}

function isSame(stamps: ReadonlyMap<string, string>): boolean {
  return [...stamps].every(([file, stamp]) => stampOf(file) === stamp);
}
