import { createHash } from 'node:crypto';
import { closeSync, existsSync, mkdirSync, openSync } from 'node:fs';
import path from 'node:path';
import type { SavedFile, SavingFile } from '../core/ports.ts';
import { openBeside, type Beside } from './placing.ts';
import { synced, writeAll } from './write-all.ts';

/** A file beside its place, which is put there when all of it is written and on disk, and what it is of is as it should be. */
export class PartialFile implements SavingFile {
  protected beside: Beside | undefined;
  private readonly hash = createHash('sha256');
  private size = 0;

  constructor(
    protected readonly file: string,
    readonly path: string,
  ) {}

  get isThere(): boolean {
    return existsSync(this.file);
  }

  write(chunk: Uint8Array): 'more' {
    writeAll(this.open().descriptor, chunk);
    this.hash.update(chunk);
    this.size += chunk.length;
    return 'more';
  }

  protected open(): Beside {
    if (this.beside) return this.beside;
    mkdirSync(path.dirname(this.file), { recursive: true });
    return (this.beside = openBeside(this.file, 0o644));
  }

  async finish(): Promise<SavedFile> {
    await synced(this.open().descriptor).catch(ignoredByStreams);
    return { path: this.path, size: this.size, sha256: this.hash.digest('hex'), replaced: this.isThere };
  }

  place(): void {
    this.open().place();
  }

  async abandon(): Promise<void> {
    this.beside?.abandon();
  }
}

/** A device, a pipe or a descriptor: what has gone there cannot be taken back. */
export class StreamFile extends PartialFile {
  protected override open(): Beside {
    return (this.beside ??= streamAt(this.file));
  }
}

/** A pipe or a device has no disk to wait for. */
function ignoredByStreams(error: NodeJS.ErrnoException): void {
  if (error.code !== 'EINVAL' && error.code !== 'ENOTSUP') throw error;
}

/** A device or a pipe; what stands for a descriptor of this process is that descriptor. */
export function streamAt(file: string): Beside {
  const own =
    { '/dev/stdout': 1, '/dev/stderr': 2 }[file] ?? Number(/^\/(?:dev|proc\/self)\/fd\/(\d+)$/.exec(file)?.[1] ?? -1);
  const descriptor = own < 0 ? openSync(file, 'a') : own;
  const close = () => void (own < 0 && closeSync(descriptor));
  return { descriptor, place: close, abandon: close };
}
