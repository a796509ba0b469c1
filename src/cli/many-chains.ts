import { prepareAndRun, reportedOf, showLimits, writeOutputs, type Ran, type RunOptions } from './show-run.ts';
import { AS_WRITTEN, readAt } from '../runner/deployments.ts';
import path from 'node:path';
import { existsSync, statSync } from 'node:fs';
import { systemClock } from '../adapters/clock.ts';
import { newRunId } from '../adapters/journal-files.ts';
import { fileName } from '../core/chain/chain-file.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
import { findChains } from '../adapters/project-files.ts';
import { moreSevereExit } from '../core/engine/exit.ts';
import type { GoingOn } from '../runner/prepare-run.ts';
import { counted } from '../core/value/show.ts';
import type { ObjectValue } from '../core/value/value.ts';
import type { ExitStatus, Io } from './io.ts';
import { writeReports } from './reports.ts';
import { fractionOf } from './run-parts.ts';
import { CommandError } from '../runner/command-error.ts';
import { showDiagnostic } from './view/diagnostics.ts';
import { paletteOf, type Palette } from './view/palette.ts';
import { cut, padded } from './view/text.ts';
import { refuseUnchosen, unchosenApis } from '../runner/endpoints.ts';
import { loadChain, openProject } from '../runner/workspace.ts';

/** The chain files that were named, those below folders too, sorted by path. */
export function chosenChains(said: readonly string[], tags: readonly string[], io: Io): readonly string[] {
  const files = new Set(
    said.flatMap((each) => {
      if (each.trim() === '')
        throw new CommandError('invalid-option', 'An empty name is no chain file', 'Name a chain file or a folder.');
      const full = path.resolve(io.cwd, each);
      const isFolder = existsSync(full) && statSync(full).isDirectory();
      return isFolder ? findChains(full).map((file) => path.relative(io.cwd, file)) : [each];
    }),
  );
  const sorted = [...files].sort();
  const tagged = tags.length === 0 ? sorted : sorted.filter((file) => hasTag(file, tags, io));
  if (tagged.length === 0) {
    const what = tags.length === 0 ? `in ${said.join(', ')}` : `with the tag ${tags.join(' or ')}`;
    throw new CommandError(
      'file-not-found',
      `There is no chain ${what}`,
      'The names of chain files end in .chain.yaml.',
    );
  }
  return tagged;
}

/** Of chains in order of path the slice that was asked for. */
export function partOfChains(files: readonly string[], slice: string | undefined): readonly string[] {
  if (slice === undefined) return files;
  const { part, of } = fractionOf('--slice', '2/5', slice);
  return files.filter((_file, i) => i % of === part - 1);
}

function hasTag(file: string, tags: readonly string[], io: Io): boolean {
  const workspace = openProject(io.cwd);
  const { chain } = loadChain(workspace, file, readAt(AS_WRITTEN, {}, workspace.project));
  return chain?.tags.some((tag) => tags.includes(tag)) ?? false;
}

/** A chain that is run with others: by its file, with inputs of its own and a name to tell it by, of a row of a table. */
export type ChainJob = Readonly<{ file: string; from?: GoingOn; name?: string; row?: number }>;

/** Runs several chains, some at the same time; what several at a time say comes out whole, one after another. */
export async function runMany(
  jobs: readonly ChainJob[],
  options: RunOptions,
  concurrency: number,
  io: Io,
): Promise<ExitStatus> {
  if (!Number.isInteger(concurrency) || concurrency < 1)
    throw new CommandError('invalid-option', '--parallel-chains needs a number of 1 or more');
  const results: ChainResult[] = [];
  const write = options.out === '-' || options.events ? io.exit.err : io.exit.out;
  const workspace = openProject(io.cwd);
  const { recordFolder } = workspace;
  const at = readAt(options, io.environment, workspace.project);
  const files = [...new Set(jobs.map(({ file }) => file))];
  // Said once for all, before any of them sends something.
  for (const file of unchosenApis(workspace.project, at).size > 0 ? files : []) {
    const { chain, used } = loadChain(workspace, file, at);
    if (chain) refuseUnchosen(workspace, [chain, ...used.chains], at);
  }
  const batch = newRunId(recordFolder, new Date(systemClock.nowMs()), Math.random);
  const lengths = jobs.map(({ file, name }) => (name ?? fileName(file)).length);
  const width = Math.min(
    60,
    lengths.reduce((most, length) => Math.max(most, length), 18),
  );
  const isAsked = concurrency === 1;
  const around = isAsked ? io : { ...io, mayAsk: false };
  let next = 0;
  let isInterrupted = false;
  const worker = async (): Promise<void> => {
    // Whoever interrupts one wants no further one.
    while (next < jobs.length && !isInterrupted) {
      const index = next++;
      const { file, from, name } = jobs[index]!;
      const texts: string[] = [];
      const together = { batch, name, write: (text: string) => void texts.push(text) };
      const result = {
        ...(await prepareAndRun(file, options, around, from, together)),
        text: texts.join(''),
      };
      results[index] = result;
      isInterrupted ||= result.exit === 130;
      // What passed has its line at once; what did not is told at the end.
      if (options.verbose) write(`${result.text}\n`);
      if (result.exit === 0 && !options.quiet) write(`${chainLine(result, width, io)}\n`);
    }
  };
  await Promise.all(Array.from({ length: Math.min(concurrency, jobs.length) }, worker));
  const ran = results.filter(Boolean);
  if (options.out !== undefined) {
    const outputs = Object.fromEntries(
      ran.map(({ name, outputs: own }): [string, ObjectValue] => [name, Object.fromEntries(own)]),
    );
    writeOutputs(options.out, outputs, io);
  }
  showEnd(ran, { rest: jobs.slice(ran.length), noun: nounOf(jobs), width }, options, write, io);
  if (!options.quiet) await showLimits(workspace, new Set(ran.flatMap(({ apis }) => [...apis])), options, io);
  if (options.reports?.length) writeReports(recordFolder, ran.map(reportedOf), options.reports, io);
  return ran.reduce<ExitStatus>((exit, each) => moreSevereExit(exit, each.exit), 0);
}

function nounOf(jobs: readonly ChainJob[]): string {
  return jobs.some(({ row }) => row !== undefined) ? 'row' : 'chain';
}

/** A chain that ran with others, and what its view wrote. */
type ChainResult = Ran & Readonly<{ text: string }>;

const WORDS: Readonly<Record<number, string>> = {
  0: 'passed',
  1: 'failed',
  2: 'not run',
  3: 'failed',
  5: 'paused',
  130: 'interrupted',
};

/** `passed       arrivals   15 calls, 31 expectations; 18 requests in 170 ms   run 1127-1244-mw`. */
function chainLine({ exit, name, run, outcome, diagnostics }: ChainResult, width: number, io: Io): string {
  const { good, bad, quiet } = paletteOf(io.colors);
  const word = padded(WORDS[exit] ?? 'failed', 11);
  const cause = diagnostics.find(({ level }) => level === 'error');
  const what =
    exit === 0
      ? outcome?.summary
      : (outcome?.failure ?? (cause ? `${cause.code}: ${cause.message}` : outcome?.summary));
  const head = `${exit === 0 ? good(word) : bad(word)} ${padded(name, width)}   `;
  const tail = run === undefined ? '' : `   run ${run}`;
  const room = Math.max(20, io.columns - 11 - 1 - Math.max(width, name.length) - 3 - tail.length);
  return `${head}${cut(what ?? '', room)}${quiet(tail)}`.trimEnd();
}

/** What went wrong, each cause once; then a line for each chain that did not pass, and how many did. */
function showEnd(
  results: readonly ChainResult[],
  { rest: unrun, noun, width }: Readonly<{ rest: readonly ChainJob[]; noun: string; width: number }>,
  { quiet, verbose }: RunOptions,
  write: (text: string) => void,
  io: Io,
): void {
  const palette = paletteOf(io.colors);
  const causes = sharedCauses(results);
  if (causes.length > 0)
    io.exit.err(`\n${causes.map((each) => showCause(each, results.length, noun, palette, io)).join('\n\n')}\n`);
  const rest = results.filter(({ exit }) => exit !== 0);
  if (!quiet && !verbose) for (const { text } of rest) write(text === '' ? '' : `\n${text.trim()}\n`);
  if (rest.length > 0) write(`${quiet ? '' : '\n'}${rest.map((each) => chainLine(each, width, io)).join('\n')}\n`);
  if (quiet && rest.length === 0) return;
  const passed = results.length - rest.length;
  write(`\n${palette.strong(`${passed} of ${counted(results.length, noun)} passed`)}${notStarted(unrun)}\n`);
}

function notStarted(rest: readonly ChainJob[]): string {
  const [first] = rest;
  if (!first) return '';
  const how = first.row === undefined ? '' : `; to run the rest: --from-row ${first.row}`;
  return `, ${rest.length} not started${how}`;
}

type Cause = Readonly<{ diagnostic: Diagnostic; names: string[] }>;

/** What is wrong with the files, once for all chains that it holds for. */
function sharedCauses(results: readonly ChainResult[]): readonly Cause[] {
  const causes = new Map<string, Cause>();
  for (const { diagnostics, name } of results) {
    for (const diagnostic of diagnostics) {
      const { code, message, advice } = diagnostic;
      const key = JSON.stringify([code, message, advice]);
      const known = causes.get(key);
      if (known) known.names.push(name);
      else causes.set(key, { diagnostic, names: [name] });
    }
  }
  return [...causes.values()];
}

function showCause({ diagnostic, names }: Cause, total: number, noun: string, palette: Palette, io: Io): string {
  const shown = showDiagnostic(diagnostic, palette, io.columns);
  if (names.length === 1) return shown;
  const which =
    names.length === total ? `all ${total} ${noun}s` : `${names.length} of ${total} ${noun}s: ${names.join(', ')}`;
  return `${shown}\n        ${cut(`in ${which}`, Math.max(40, io.columns - 8))}`;
}
