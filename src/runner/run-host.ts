import { hash, randomBytes } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { systemClock } from '../adapters/clock.ts';
import type { MaskedOutput } from '../adapters/masked-output.ts';
import { placeToWrite, projectOpener, projectReader, readNamedFile, RECORD_FOLDER } from '../adapters/project-files.ts';
import { passingLinesFiles } from '../adapters/lines-files.ts';
import { systemRandomness } from '../adapters/randomness.ts';
import type { SourceFile } from '../core/diagnostics/source.ts';
import type { RunHost } from '../core/engine/host.ts';
import type { OpenLines } from '../core/ports.ts';
import { parseDateTime } from '../core/value/times.ts';
import { CommandError } from './command-error.ts';
import { contractsIn } from './contracts.ts';
import { inProject, type Workspace } from './workspace.ts';

export type HostOptions = Readonly<{ now?: string; seed?: string }>;

/** Prints by the project's random key, which is made when it is first needed. */
function keyedHasher(file: string, exit: MaskedOutput): (text: string) => string {
  let print: ((text: string) => string) | undefined;
  const read = (): string => {
    let text = existsSync(file) ? readFileSync(file, 'utf8').trim() : '';
    if (text === '') exit.writeFile(file, `${(text = randomBytes(32).toString('hex'))}\n`);
    return text;
  };
  return (text) => (print ??= hmacBy(read()))(text).slice(0, 32);
}

/** Bytes of a block of SHA-256. */
const BLOCK = 64;

/**
 * HMAC-SHA-256 (RFC 2104) by a key of at most a block, in base64url. Two digests in one go each take half the time of the
 * object that `createHmac` makes, which a run does for every call.
 */
function hmacBy(key: string): (text: string) => string {
  const padded = Buffer.alloc(BLOCK);
  padded.write(key);
  const [inner, outer] = [0x36, 0x5c].map((pad) => Buffer.from(padded.map((byte) => byte ^ pad))) as [Buffer, Buffer];
  return (text) => {
    const digest = hash('sha256', Buffer.concat([inner, Buffer.from(text)]), 'buffer');
    return hash('sha256', Buffer.concat([outer, digest]), 'base64url');
  };
}

/** What the expressions of a run may ask for: the project's zone and files, the clock and the seed. */
export function runHost(
  { project, folder, cwd, recordFolder }: Workspace,
  chainFile: string,
  { now, seed }: HostOptions,
  exit: MaskedOutput,
  inputFiles: readonly string[] = [],
  /** Where lists go that are too long to hold; away when the process ends unless it is said. */
  openLines: OpenLines = passingLinesFiles(recordFolder, exit),
): RunHost {
  const zone = project?.zone ?? 'UTC';
  const instant = now === undefined ? undefined : parseDateTime(now, zone);
  if (now !== undefined && instant === undefined) {
    throw new CommandError(
      'invalid-option',
      `--now needs a date-time, not "${now}"`,
      'Example: --now 2026-05-23T12:00:00Z.',
    );
  }
  const allowed = new Set(inputFiles);
  const shared = {
    namedFiles: allowed,
    zone,
    nowMs: instant ? () => instant.epochMilliseconds : () => systemClock.nowMs(),
    seed: seed ?? randomBytes(8).toString('hex'),
    randomness: systemRandomness,
    openLines,
    keyedHash: keyedHasher(path.join(folder, RECORD_FOLDER, 'key'), exit),
    inProject: ({ path: file }: SourceFile) => inProject({ folder, cwd }, file),
    contractOf: contractsIn(folder),
    readProjectFile: (name: string) => readNamedFile(path.resolve(folder, name)),
  };
  const at = (file: string): RunHost => {
    const rules = { folder, chainFile: path.resolve(cwd, file), allowed };
    return {
      ...shared,
      readFile: projectReader(folder, rules.chainFile, allowed),
      openFile: projectOpener(rules),
      saveFile: (name) => {
        const place = placeToWrite(name, rules);
        return 'file' in place ? exit.savingFile(place.file, inProject({ folder, cwd }, place.file)) : place;
      },
      rowsFile: (name) => {
        const place = placeToWrite(name, rules);
        if (!('file' in place)) return place;
        const shown = inProject({ folder, cwd }, place.file);
        const lock = path.join(folder, RECORD_FOLDER, 'limiters', `file-${hash('sha256', shown).slice(0, 16)}`);
        return exit.rowsFile(place.file, shown, lock);
      },
      beside: (other) => at(other.path),
    };
  };
  return at(chainFile);
}
