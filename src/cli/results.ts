import { existsSync, lstatSync, readlinkSync, realpathSync, statSync } from 'node:fs';
import path from 'node:path';
import { findProject, PROJECT_FILE, RECORD_FOLDER, SECRETS_FILE } from '../adapters/project-files.ts';
import type { SavingFile } from '../core/ports.ts';
import { CommandError } from '../runner/command-error.ts';
import type { Io } from './io.ts';

/**
 * Writes a file that a person named for a result: through a link to where it leads, into a device or a pipe as it is, any
 * other file in one step. Gives its size in bytes. Throws `CommandError`, and then nothing half-made is left.
 */
export function writeResult(file: string, pieces: Iterable<string>, io: Io): number {
  const place = placeOfResult(file, io);
  try {
    return place.isStream ? io.exit.writeInto(place.file, pieces) : io.exit.writePieces(place.file, pieces, 0o644);
  } catch (error) {
    const { code, syscall } = error as NodeJS.ErrnoException;
    if (code === undefined || syscall === undefined) throw error;
    throw new CommandError('not-writable', `${file} could not be written (${code})`, undefined, 3);
  }
}

/** Where a result goes. Throws `CommandError` for a place that is none. */
export function placeOfResult(said: string, { cwd }: Io): Readonly<{ file: string; isStream: boolean }> {
  const file = path.resolve(cwd, said);
  // What stands for a descriptor of this process is written to, whatever it is.
  if (/^\/(?:dev|proc)\//.test(file)) return { file, isStream: true };
  const target = linkTarget(file);
  refuseOwn(said, target);
  const stats = statSync(target, { throwIfNoEntry: false });
  if (stats?.isDirectory()) throw new CommandError('not-a-file', `${said} is a folder`, 'Name a file in it.');
  return { file: target, isStream: stats !== undefined && !stats.isFile() };
}

/** Where a link leads, also one to a file that is not there yet. */
function linkTarget(file: string): string {
  if (existsSync(file)) return realpathSync(file);
  const isLink = lstatSync(file, { throwIfNoEntry: false })?.isSymbolicLink() ?? false;
  return isLink ? path.resolve(path.dirname(file), readlinkSync(file)) : file;
}

/** Files of a project itself are no place for a result. */
function refuseOwn(said: string, file: string): void {
  const folder = findProject(path.dirname(file));
  const inProject = folder === undefined ? '' : path.relative(folder, file);
  const name = path.basename(file);
  const isOwn = name === PROJECT_FILE || name === SECRETS_FILE || /\.chain\.ya?ml$/.test(name);
  if (!isOwn && inProject.split(path.sep)[0] !== RECORD_FOLDER) return;
  throw new CommandError('file-protected', `${said} is a file of the project itself`, 'Choose another name.');
}

/** A file that a person named for the body of a response, by the same rules. */
export function savingResult(said: string, io: Io): SavingFile {
  const { file, isStream } = placeOfResult(said, io);
  return isStream ? io.exit.savingStream(file, said) : io.exit.savingFile(file, said);
}
