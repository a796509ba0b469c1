import { randomBytes } from 'node:crypto';
import { closeSync, fchmodSync, openSync, renameSync, rmSync, statSync } from 'node:fs';
import path from 'node:path';

/** A file that is being written beside its place, under a name that nobody can guess, and is there only when it is whole. */
export type Beside = Readonly<{
  descriptor: number;
  /** Puts it into its place, with the mode of what stood there. */
  place(): void;
  /** Leaves no trace; nothing when it is placed already. */
  abandon(): void;
}>;

/** Begins a file beside its place. It is made anew, so that no link leads anywhere else. */
export function openBeside(file: string, mode: number): Beside {
  const beside = path.join(
    path.dirname(file),
    `.${path.basename(file).slice(0, 100)}.${randomBytes(9).toString('hex')}`,
  );
  const descriptor = openSync(beside, 'wx', mode);
  let isOpen = true;
  const close = () => {
    if (isOpen) closeSync(descriptor);
    isOpen = false;
  };
  return {
    descriptor,
    place: () => {
      const there = statSync(file, { throwIfNoEntry: false });
      // Of what is secret the mode is never widened.
      if (there && mode !== OWNER_ONLY) fchmodSync(descriptor, there.mode & 0o777);
      close();
      renameSync(beside, file);
    },
    abandon: () => {
      close();
      rmSync(beside, { force: true });
    },
  };
}

/** Writes a file beside its place, and puts it there when all of it is written; one that is there keeps its mode. */
export function replaceFile(file: string, mode: number, write: (descriptor: number) => void): void {
  const beside = openBeside(file, mode);
  try {
    write(beside.descriptor);
    beside.place();
  } catch (error) {
    beside.abandon();
    throw error;
  }
}

/** The mode of files that hold what is secret. */
export const OWNER_ONLY = 0o600;
