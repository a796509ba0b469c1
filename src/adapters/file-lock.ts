import { linkSync, mkdirSync, readFileSync, renameSync, rmSync, statSync, unlinkSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { identityIn, stateOfProcess, thisProcess } from './process-identity.ts';

/** A lock that is older than this is that of a process which is gone, or as good as gone. */
const STALE_MS = 5000;

/** A lock that processes share, for work that is done in a moment; that of a process which is gone is broken. */
export class FileLock {
  private readonly lockFile: string;
  private readonly mark: string;
  private lockedAt = 0;

  /** The lock is named after a file, in whose folder it stands. */
  constructor(file: string) {
    this.lockFile = `${file}.lock`;
    // A lock is a second name of a file that says whose it is: it comes to be in one step, with all that it says.
    this.mark = `${file}.${process.pid}`;
    this.makeMark();
  }

  private makeMark(): void {
    mkdirSync(path.dirname(this.mark), { recursive: true, mode: 0o700 });
    writeFileSync(this.mark, JSON.stringify(thisProcess()), { mode: 0o600 });
  }

  tryLock(): boolean {
    try {
      linkSync(this.mark, this.lockFile);
      this.lockedAt = performance.now();
      return true;
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code === 'EEXIST') return false;
      if (code !== 'ENOENT') throw error;
      // The folder was removed meanwhile.
      this.makeMark();
      return false;
    }
  }

  /** A lock whose process is gone is renamed, which one of all who want that can do, and looked at before it is dropped. */
  breakStale(): void {
    const before = lockAsIs(this.lockFile);
    if (!before || !before.isStale) return;
    const aside = `${this.lockFile}.${process.pid}`;
    try {
      renameSync(this.lockFile, aside);
    } catch {
      return;
    }
    const renamed = lockAsIs(aside);
    // It was another one by then, and somebody's: it is put back, unless a third has come already.
    if (renamed && renamed.text !== before.text && !renamed.isStale) {
      try {
        linkSync(aside, this.lockFile);
      } catch {
        // Whoever comes now finds a lock either way.
      }
    }
    rmSync(aside, { force: true });
  }

  unlock(): void {
    const isLate = performance.now() - this.lockedAt > STALE_MS / 5;
    // After so long another may have taken it for stale, and the lock there now would be its own.
    if (isLate && !isSameFile(this.lockFile, this.mark)) return;
    try {
      unlinkSync(this.lockFile);
    } catch {
      // It was taken for stale, and is gone.
    }
  }

  /** Does something while nobody else does, and waits for that if it has to. */
  withLock<T>(work: () => T): T {
    for (let tries = 1; !this.tryLock(); tries++) {
      if (tries % 20 === 0) this.breakStale();
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 2);
    }
    try {
      return work();
    } finally {
      this.unlock();
    }
  }

  close(): void {
    rmSync(this.mark, { force: true });
  }
}

/** What a lock says, and whether it holds no more. One that says nothing is given the time of one that cannot be seen. */
function lockAsIs(file: string): Readonly<{ text: string; isStale: boolean }> | undefined {
  try {
    const text = readFileSync(file, 'utf8');
    const isOld = Date.now() - statSync(file).ctimeMs > STALE_MS;
    return { text, isStale: isOld || stateOfProcess(identityIn(text)) === 'gone' };
  } catch {
    return undefined;
  }
}

function isSameFile(left: string, right: string): boolean {
  const [one, other] = [left, right].map((file) => statSync(file, { throwIfNoEntry: false })?.ino);
  return one !== undefined && one === other;
}
