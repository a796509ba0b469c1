import { utf8Text } from '../core/value/utf8.ts';
import {
  closeSync,
  createReadStream,
  existsSync,
  lstatSync,
  openSync,
  readdirSync,
  readFileSync,
  readSync,
  realpathSync,
  statSync,
} from 'node:fs';
import path from 'node:path';
import type { Code } from '../core/diagnostics/catalogue.ts';
import { whyProtected } from '../core/value/file-names.ts';
import type { FileRead } from '../core/expression/host.ts';
import type { OpenedFile } from '../core/http/message.ts';
import type { SourceFile } from '../core/diagnostics/source.ts';

export const PROJECT_FILE = 'batharon.yaml';
export const RECORD_FOLDER = '.batharon';
export const LOCAL_FILE = 'batharon.local.yaml';
export const SECRETS_FILE = 'secrets.env';

export type ReadFile =
  | Readonly<{ file: SourceFile; problem?: undefined }>
  | Readonly<{ file?: undefined; problem: 'file-not-found' | 'not-a-file' | 'not-utf8' | 'file-too-big' }>;

const MAX_BYTES = 4 * 1024 * 1024;

/** The folder of the project around a folder: the nearest one upwards with a `batharon.yaml`. */
export function findProject(from: string): string | undefined {
  for (let folder = path.resolve(from); ; folder = path.dirname(folder)) {
    if (existsSync(path.join(folder, PROJECT_FILE))) return folder;
    if (path.dirname(folder) === folder) return undefined;
  }
}

/** A file of the project; its path is shown relative to the working folder. */
export function readSourceFile(file: string, workingFolder: string): ReadFile {
  const shown = path.relative(workingFolder, file) || path.basename(file);
  let data: Buffer;
  try {
    const stats = statSync(file);
    if (!stats.isFile()) return { problem: 'not-a-file' };
    if (stats.size > MAX_BYTES) return { problem: 'file-too-big' };
    data = readFileSync(file);
  } catch {
    return { problem: 'file-not-found' };
  }
  const text = utf8Text(data);
  return text === undefined ? { problem: 'not-utf8' } : { file: { path: shown, text } };
}

const PASSED_OVER: ReadonlySet<string> = new Set(['node_modules', '.git', RECORD_FOLDER]);

/** Every `*.chain.yaml` below a folder, in order of path. */
export function findChains(folder: string): readonly string[] {
  return readdirSync(folder, { withFileTypes: true })
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .flatMap((entry) => {
      const full = path.join(folder, entry.name);
      if (entry.isDirectory()) return PASSED_OVER.has(entry.name) ? [] : findChains(full);
      return /\.chain\.ya?ml$/.test(entry.name) ? [full] : [];
    });
}

/** Bytes of a file that an expression, a schema or an expectation reads whole. */
const MAX_READ = 64 * 1024 * 1024;

/**
 * Reads files that a chain names, relative to the chain file. They are inside the project folder, symbolic links
 * resolved, or were named on the command line as a `file` input.
 */
export function projectReader(
  folder: string,
  chainFile: string,
  allowed: ReadonlySet<string>,
): (name: string) => FileRead {
  return (name) => {
    const found = findFile(name, { folder, chainFile, allowed });
    if ('message' in found) return found;
    if (found.size > MAX_READ) return { message: `The file ${name} exceeds 64 MiB` };
    return { bytes: readFileSync(found.real) };
  };
}

/** Where files are looked for, and which may be read wherever they are. */
type FileRules = Readonly<{ folder: string; chainFile: string; allowed: ReadonlySet<string> }>;

type Found = Readonly<{ real: string; size: number }>;

function findFile(name: string, { folder, chainFile, allowed }: FileRules): Found | Unreadable {
  const file = path.resolve(path.dirname(chainFile), name);
  try {
    const real = realpathSync(file);
    if (!allowed.has(file)) {
      if (!isInside(folder, real)) {
        const advice = 'Files are read inside the project folder only. Pass another file as an input of type file.';
        return { message: `The file ${name} is outside the project`, advice };
      }
      const why = whyProtected(inFolder(folder, file)) ?? whyProtected(inFolder(folder, real));
      if (why !== undefined)
        return { message: `The file ${name} is not for chains to read: ${why}`, code: 'file-protected' };
    }
    const stats = statSync(real);
    if (!stats.isFile()) return { message: `${name} is not a regular file`, code: 'not-a-file' };
    return { real, size: stats.size };
  } catch (error) {
    return unreadable(name, error, 'Paths are relative to the chain file.');
  }
}

type Unreadable = Readonly<{ message: string; advice?: string; code?: Code }>;

function unreadable(name: string, error: unknown, advice: string): Unreadable {
  const { code } = error as NodeJS.ErrnoException;
  const why = code === 'ENOENT' || code === 'ENOTDIR' ? 'does not exist' : `cannot be read (${code})`;
  return { message: `The file ${name} ${why}`, advice };
}

/** Whether a file, symbolic links resolved, is inside a folder. */
export function isInside(folder: string, real: string): boolean {
  const relative = path.relative(realpathSync(folder), real);
  return relative !== '..' && !relative.startsWith(`..${path.sep}`) && !path.isAbsolute(relative);
}

/** The path of a file in its project, of a file as it is named or as it is. */
function inFolder(folder: string, file: string): string {
  const real = realpathSync(folder);
  return path.relative(file.startsWith(`${real}${path.sep}`) ? real : path.resolve(folder), file);
}

/** Opens files that requests send, by the same rules. */
export function projectOpener(rules: FileRules): (name: string) => OpenedFile {
  return (name) => {
    const found = findFile(name, rules);
    if ('message' in found) return found;
    const { real, size } = found;
    return {
      name: path.basename(real),
      size,
      chunks: () => createReadStream(real, { highWaterMark: PIECE }),
      pieces: () => piecesOf(real),
    };
  };
}

/** Bytes that are read at a time. */
const PIECE = 256 * 1024;

function* piecesOf(file: string): Generator<Uint8Array> {
  const descriptor = openSync(file, 'r');
  try {
    for (;;) {
      const buffer = Buffer.allocUnsafe(PIECE);
      const read = readSync(descriptor, buffer, 0, PIECE, null);
      if (read === 0) return;
      yield buffer.subarray(0, read);
    }
  } finally {
    closeSync(descriptor);
  }
}

/**
 * The place of a file that a chain writes: inside the project folder, symbolic links resolved, and none of the project's own.
 * What is there already must be a plain file.
 */
export function placeToWrite(name: string, rules: FileRules): Readonly<{ file: string }> | Unreadable {
  try {
    return writablePlace(name, rules);
  } catch (error) {
    // A file where a folder would have to be, a name that is too long.
    return { message: `The file ${name} cannot be written (${(error as NodeJS.ErrnoException).code})` };
  }
}

function writablePlace(
  name: string,
  { folder, chainFile, allowed }: FileRules,
): Readonly<{ file: string }> | Unreadable {
  const file = path.resolve(path.dirname(chainFile), name);
  if (allowed.has(file)) return { file };
  const there = lstatSync(file, { throwIfNoEntry: false });
  let above = path.dirname(file);
  while (!existsSync(above)) above = path.dirname(above);
  const real = path.join(realpathSync(above), path.relative(above, file));
  // A link to nowhere would be made at the place to which it leads.
  const target = there?.isSymbolicLink() ? (existsSync(file) ? realpathSync(file) : undefined) : real;
  if (target === undefined || !isInside(folder, real) || !isInside(folder, target))
    return {
      message: `The file ${name} would be outside the project`,
      advice: 'Files are written inside the project folder only.',
    };
  const why = [file, real, target]
    .map((each) => whyProtected(inFolder(folder, each)))
    .find((each) => each !== undefined);
  if (why !== undefined)
    return {
      message: `The file ${name} is not for chains to write: ${why}`,
      advice: 'Choose another name.',
      code: 'file-protected',
    };
  if (existsSync(target) && !statSync(target).isFile())
    return {
      message: `${name} is ${statSync(target).isDirectory() ? 'a folder' : 'not a regular file'}`,
      code: 'not-a-file',
    };
  return { file: target };
}

/** Reads a file that the project file names, wherever it is. */
export function readNamedFile(file: string): FileRead {
  try {
    return { bytes: readFileSync(file) };
  } catch (error) {
    return unreadable(file, error, 'Paths are relative to batharon.yaml.');
  }
}

/** Whether git would pass over `secrets.env` in a folder, by the .gitignore files there and above; true outside of git. */
export function isIgnoredByGit(folder: string): boolean {
  for (let at = path.resolve(folder); ; at = path.dirname(at)) {
    const ignore = path.join(at, '.gitignore');
    const lines = existsSync(ignore) ? readFileSync(ignore, 'utf8').split(/\r?\n/) : [];
    if (lines.some((line) => /^(?:\*\*)?\/?(?:secrets\.env|\*\.env|secrets\.\*|\*)$/.test(line.trim()))) return true;
    if (existsSync(path.join(at, '.git'))) return false;
    if (path.dirname(at) === at) return true;
  }
}
