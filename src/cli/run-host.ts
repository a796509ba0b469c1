import { randomBytes } from 'node:crypto';
import path from 'node:path';
import { systemClock } from '../adapters/clock.ts';
import type { Exit } from '../adapters/exit.ts';
import { placeToWrite, projectOpener, projectReader, readNamedFile } from '../adapters/project-files.ts';
import { systemRandomness } from '../adapters/randomness.ts';
import type { SourceFile } from '../core/diagnostics/source.ts';
import type { RunHost } from '../core/engine/host.ts';
import { parseDateTime } from '../core/value/times.ts';
import { UsageFault } from './usage-fault.ts';
import type { Workspace } from './workspace.ts';

export type HostOptions = Readonly<{ now?: string; seed?: string }>;

/** What the expressions of a run may ask for: the project's zone and files, the clock and the seed. */
export function runHost(
  { project, folder, cwd }: Workspace,
  chainFile: string,
  { now, seed }: HostOptions,
  exit: Exit,
  inputFiles: readonly string[] = [],
): RunHost {
  const zone = project?.zone ?? 'UTC';
  const instant = now === undefined ? undefined : parseDateTime(now, zone);
  if (now !== undefined && instant === undefined) {
    throw new UsageFault(
      'bad-option',
      `--now wants a date-time, and "${now}" is none`,
      'As in --now 2026-05-23T12:00:00Z.',
    );
  }
  const allowed = new Set(inputFiles);
  const shared = {
    namedFiles: allowed,
    zone,
    nowMs: instant ? () => instant.epochMilliseconds : () => systemClock.nowMs(),
    seed: seed ?? randomBytes(8).toString('hex'),
    randomness: systemRandomness,
    inProject: ({ path: file }: SourceFile) => path.relative(folder, path.resolve(cwd, file)).split(path.sep).join('/'),
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
        return 'file' in place ? exit.savingFile(place.file, path.relative(cwd, place.file)) : place;
      },
      rowsFile: (name) => {
        const place = placeToWrite(name, rules);
        return 'file' in place ? exit.rowsFile(place.file, path.relative(cwd, place.file)) : place;
      },
      beside: (other) => at(other.path),
    };
  };
  return at(chainFile);
}
