import { createHash } from 'node:crypto';
import { readFileSync, renameSync, statSync, unlinkSync, mkdirSync, openSync, closeSync } from 'node:fs';
import path from 'node:path';
import type { TokenStore } from '../core/http/auth/help.ts';
import type { MaskedOutput } from './masked-output.ts';

/** A lock that is older than this belongs to a process that died. A sign-in by a person may take five minutes. */
const MAX_LOCK_MS = 10 * 60_000;
const RETRY_MS = 50;

/** Refresh tokens in a folder, one file each, for their owner alone; one process at a time reads and writes one. */
export function tokenStore(folder: string, exit: MaskedOutput): TokenStore {
  return {
    withLock: async (name, work) => {
      const id = createHash('sha256').update(name).digest('hex').slice(0, 24);
      const file = path.join(folder, `${id}.json`);
      const unlock = await lock(`${file}.lock`);
      try {
        return await work({
          read: () => readToken(file),
          write: (token) =>
            token === undefined
              ? remove(file)
              : exit.writeSecrets(file, `${JSON.stringify({ refresh_token: token })}\n`),
        });
      } finally {
        unlock();
      }
    },
  };
}

function readToken(file: string): string | undefined {
  try {
    return (JSON.parse(readFileSync(file, 'utf8')) as { refresh_token?: string }).refresh_token;
  } catch {
    return undefined;
  }
}

function remove(file: string): void {
  try {
    unlinkSync(file);
  } catch {
    // It was not there.
  }
}

async function lock(file: string): Promise<() => void> {
  mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
  for (;;) {
    try {
      closeSync(openSync(file, 'wx', 0o600));
      return () => remove(file);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    }
    const age = Date.now() - (statSync(file, { throwIfNoEntry: false })?.mtimeMs ?? Date.now());
    if (age > MAX_LOCK_MS) breakLock(file);
    else await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
  }
}

/** Renaming wins for one process only. */
function breakLock(file: string): void {
  try {
    const broken = `${file}.${process.pid}`;
    renameSync(file, broken);
    remove(broken);
  } catch {
    // Another process was first.
  }
}
