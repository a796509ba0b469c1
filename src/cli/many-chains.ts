import path from 'node:path';
import { existsSync, statSync } from 'node:fs';
import { findChains } from '../adapters/project-files.ts';
import { worse } from '../core/engine/worse.ts';
import { counted } from '../core/value/show.ts';
import type { ObjectValue } from '../core/value/value.ts';
import type { ExitStatus, Io } from './io.ts';
import { prepareAndRun, writeOutputs, type Ran, type RunOptions } from './prepared-run.ts';
import { writeReports } from './reports.ts';
import { fractionOf } from './run-parts.ts';
import { UsageFault } from './usage-fault.ts';
import { paletteOf } from './view/palette.ts';
import { padded } from './view/text.ts';
import { loadChain, openProject, readAt } from './workspace.ts';

/** The chain files that were named, those below folders too, sorted by path; of them the part that was asked for. */
export function chosenChains(
  said: readonly string[],
  tags: readonly string[],
  slice: string | undefined,
  io: Io,
): readonly string[] {
  const files = new Set(
    said.flatMap((each) => {
      const full = path.resolve(io.cwd, each);
      const isFolder = existsSync(full) && statSync(full).isDirectory();
      return isFolder ? findChains(full).map((file) => path.relative(io.cwd, file)) : [each];
    }),
  );
  const sorted = [...files].sort();
  const tagged = tags.length === 0 ? sorted : sorted.filter((file) => hasTag(file, tags, io));
  if (tagged.length === 0) {
    const what = tags.length === 0 ? `in ${said.join(', ')}` : `with the tag ${tags.join(' or ')}`;
    throw new UsageFault('file-not-found', `There is no chain ${what}`, 'Chain files end in .chain.yaml.');
  }
  if (slice === undefined) return tagged;
  const { part, of } = fractionOf('--slice', '2/5', slice);
  return tagged.filter((_file, i) => i % of === part - 1);
}

function hasTag(file: string, tags: readonly string[], io: Io): boolean {
  const workspace = openProject(io.cwd);
  const { chain } = loadChain(workspace, file, readAt([], {}, workspace.project));
  return chain?.tags.some((tag) => tags.includes(tag)) ?? false;
}

/** Runs several chains, some at the same time; what several at a time say comes out whole, one after another. */
export async function runMany(
  files: readonly string[],
  options: RunOptions,
  concurrency: number,
  io: Io,
): Promise<ExitStatus> {
  if (!Number.isInteger(concurrency) || concurrency < 1)
    throw new UsageFault('invalid-option', `--parallel-chains wants a number, and it is none`);
  const results: (Ran & { file: string })[] = [];
  let next = 0;
  const worker = async (): Promise<void> => {
    while (next < files.length) {
      const index = next++;
      const file = files[index]!;
      const [around, flush] = concurrency > 1 ? gathered(io) : [io, () => {}];
      results[index] = { ...(await prepareAndRun(file, options, around)), file };
      flush();
      if (concurrency === 1 && index < files.length - 1 && !options.quiet) io.exit.err('\n');
    }
  };
  await Promise.all(Array.from({ length: Math.min(concurrency, files.length) }, worker));
  if (options.out !== undefined) {
    const outputs = Object.fromEntries(
      results.map(({ name, outputs: own }): [string, ObjectValue] => [name, Object.fromEntries(own)]),
    );
    writeOutputs(options.out, outputs, io);
  }
  summary(results, options.out === '-' ? io.exit.err : io.exit.out, io);
  const runs = results.flatMap(({ run }) => (run === undefined ? [] : [run]));
  if (options.reports?.length) writeReports(openProject(io.cwd).recordFolder, runs, options.reports, io);
  return results.reduce((exit, each) => worse(exit, each.exit), 0);
}

/** The same, but what is said is held until it is asked for. */
function gathered(io: Io): readonly [Io, () => void] {
  const said: [way: 'out' | 'err', text: string][] = [];
  const exit = {
    ...io.exit,
    out: (text: string) => void said.push(['out', text]),
    err: (text: string) => void said.push(['err', text]),
  };
  return [
    { ...io, exit, outIsTerminal: false, errIsTerminal: false },
    () => said.forEach(([way, text]) => io.exit[way](text)),
  ];
}

const WORDS: Readonly<Record<number, string>> = {
  0: 'passed',
  1: 'failed',
  2: 'not run',
  3: 'no answer',
  5: 'paused',
  130: 'interrupted',
};

function summary(results: readonly (Ran & { file: string })[], write: (text: string) => void, io: Io): void {
  const { strong, good, bad, quiet } = paletteOf(io.colors);
  const width = Math.max(...results.map(({ name }) => name.length));
  const lines = results.map(({ exit, name, file, run }) => {
    const word = padded(WORDS[exit] ?? 'failed', 11);
    return `${exit === 0 ? good(word) : bad(word)} ${padded(name, width)}   ${quiet([file, run].filter(Boolean).join('   '))}`;
  });
  const passed = results.filter(({ exit }) => exit === 0).length;
  write(`\n${lines.join('\n')}\n\n${strong(`${passed} of ${counted(results.length, 'chain')} passed`)}\n`);
}
