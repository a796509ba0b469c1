import type { Command } from 'commander';
import { readdirSync, rmSync, statSync } from 'node:fs';
import path from 'node:path';
import { runOwner } from '../../adapters/journal-files.ts';
import { listRuns, readRun, type RecordedRun } from '../../adapters/journal-reader.ts';
import type { EventOf, JournalEvent } from '../../core/journal/events.ts';
import { counted, spent } from '../../core/value/show.ts';
import { parseDuration } from '../../core/value/times.ts';
import type { ExitStatus, Io } from '../io.ts';
import { formOption } from './options.ts';
import { CommandError } from '../../runner/command-error.ts';
import { historyLine } from '../view/run-history.ts';
import { inProject, openWorkspace, type Workspace } from '../../runner/workspace.ts';
import { paletteOf, type Palette } from '../view/palette.ts';
import { visible } from '../../core/value/visible.ts';
import { cut, padded, paddedLeft, sized } from '../view/text.ts';
import { examples, type CommandModule } from './definition.ts';

type ListOptions = Readonly<{ as: 'text' | 'json'; count: string }>;
type RemoveOptions = Readonly<{ olderThan?: string; keepNewest?: string }>;

/** `runs`: what is recorded here; `runs remove`: less of it. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub)
      .argument('[chain]', 'chain file whose runs are listed, with their outcomes and durations in one line')
      .option('--count <n>', 'number of runs to list, newest first', '20')
      .action((chain: string | undefined, options: ListOptions) => run((io) => list(chain, options, io)));
    sub
      .command('remove')
      .description('remove runs by age, or all but the newest')
      .option('--older-than <duration>', 'age, such as 30d')
      .option('--keep-newest <n>', 'number of runs to keep')
      .action((options: RemoveOptions) => run((io) => remove(options, io)));
    examples(
      sub,
      'batharon runs',
      'batharon runs chains/berth.chain.yaml',
      'batharon runs remove --older-than 30d',
      'batharon runs remove --keep-newest 20',
    );
  },
};

/** What is said of a run in a line. */
export type ListedRun = Readonly<{
  run: string;
  at: string;
  chain: string;
  where: string;
  result: 'passed' | 'failed' | 'paused' | 'under way' | 'killed' | 'sent' | 'one call' | 'damaged';
  /** Of a `send`: what was sent, and the status of the answer. */
  request?: Readonly<{ method: string; target: string; status: number | null }>;
  ms: number;
  bytes: number;
}>;

/** The runs of a project, or of one of its chains, the newest first; those of `send` are records too. */
export function listedRuns({ recordFolder }: Workspace, count: number, chain?: string): readonly ListedRun[] {
  return listRuns(recordFolder)
    .filter((id) => chain === undefined || isOf(chain, readRun(recordFolder, id)))
    .slice(0, count)
    .flatMap((id) => {
      const record = readRun(recordFolder, id);
      const [first] = record?.journal ?? [];
      if (!record) return [];
      if (first?.type !== 'run') return [damaged(record)];
      const last = record.journal.last()!;
      const where = first.apis.map(({ name, deployment }) => (deployment === null ? name : `${name} at ${deployment}`));
      return [
        {
          run: id,
          at: new Date(first.at).toISOString(),
          chain: first.chain === '' ? '' : first.name,
          where: where.join(', '),
          result: resultOf(first, last, record.folder),
          ms: last.at - first.at,
          bytes: bytesOf(record.folder),
          ...(first.chain === '' ? requestOf(record, first) : {}),
        },
      ];
    });
}

function isOf(chain: string, record: RecordedRun | undefined): boolean {
  const [first] = record?.journal ?? [];
  return first?.type === 'run' && first.chain === chain;
}

/** A record whose first line is lost is there all the same. */
function damaged({ id, folder }: RecordedRun): ListedRun {
  const at = statSync(folder).mtime.toISOString();
  return { run: id, at, chain: '', where: '', result: 'damaged', ms: 0, bytes: bytesOf(folder) };
}

function bytesOf(folder: string): number {
  return readdirSync(folder).reduce((sum, name) => sum + statSync(path.join(folder, name)).size, 0);
}

/** What a `send` sent, under the URL of its API, and what it was answered. */
function requestOf({ journal }: RecordedRun, { apis }: EventOf<'run'>): Pick<ListedRun, 'request'> {
  let sent: EventOf<'sent'> | undefined;
  let status: number | null = null;
  for (const event of journal) {
    if (event.type === 'sent' && event.purpose === 'call') sent ??= event;
    if (event.type === 'answered') ({ status } = event);
  }
  if (!sent) return {};
  const { method, url } = sent.request;
  const base = apis.find(({ url: each }) => url.startsWith(`${each}/`))?.url ?? '';
  return { request: { method, target: url.slice(base.length), status } };
}

function resultOf(first: EventOf<'run'>, last: JournalEvent, folder: string): ListedRun['result'] {
  if (first.chain === '') return 'sent';
  if (last.type === 'finished') return last.outcome;
  if (runOwner(folder) !== undefined) return 'under way';
  if (last.type !== 'paused') return 'killed';
  return last.why === 'only' ? 'one call' : 'paused';
}

async function list(chain: string | undefined, { as, count }: ListOptions, io: Io): Promise<ExitStatus> {
  const workspace = openWorkspace(io.cwd);
  const file = chain === undefined ? undefined : inProject(workspace, chain);
  const all = listedRuns(workspace, countOf('--count', count), file);
  if (as === 'json') {
    io.exit.out(`${JSON.stringify(all, null, 2)}\n`);
    return 0;
  }
  if (all.length === 0) {
    const what = chain === undefined ? 'No runs are recorded here yet' : `No run of ${chain} is recorded here`;
    io.exit.out(`${what}. To run a chain: batharon run\n`);
    return 0;
  }
  const palette = paletteOf(io.colors);
  if (chain !== undefined) io.exit.out(`${historyLine(all, palette)}\n\n`);
  io.exit.out(all.map((each) => `${runLine(each, palette, io.columns)}\n`).join(''));
  const open = all.find(({ result }) => result === 'paused' || result === 'killed' || result === 'failed');
  if (open) io.exit.out(`\nTo resume: batharon resume ${open.run}\n`);
  return 0;
}

/** Columns of a line with all that there is to say. */
const WIDE = 104;

/**
 * `0523-1412-7k  2026-05-23 14:12  clear-arrivals   harbour at sandbox   failed   3.2 s   48 kB`; where the terminal is
 * narrow, without the year and the size.
 */
export function runLine(listed: ListedRun, palette: Palette, columns: number): string {
  const { run, at, where, ms, bytes } = listed;
  const isWide = columns >= WIDE;
  const width = isWide ? 22 : 18;
  const name = padded(cut(nameOf(listed), width), width);
  const place = padded(cut(where, isWide ? 20 : 12), isWide ? 20 : 12);
  const when = at.slice(isWide ? 0 : 5, 16).replace('T', ' ');
  const size = isWide ? `  ${palette.quiet(sized(bytes))}` : '';
  return `${run}  ${palette.quiet(when)}  ${name} ${place} ${resultWord(listed, palette)} ${paddedLeft(spent(ms), 9)}${size}`.trimEnd();
}

/** The chain, or what a `send` sent. */
function nameOf({ request, chain, result }: ListedRun): string {
  if (request) return `${request.method} ${visible(request.target)}`;
  return chain === '' && result === 'sent' ? '(send)' : chain;
}

function resultWord({ result, request }: ListedRun, { good, bad, warning, quiet }: Palette): string {
  if (result === 'sent') return quiet(padded(request?.status ? `sent ${request.status}` : 'sent', 9));
  const paint = result === 'passed' ? good : result === 'failed' ? bad : warning;
  return paint(padded(result, 9));
}

async function remove({ olderThan, keepNewest }: RemoveOptions, io: Io): Promise<ExitStatus> {
  if (olderThan === undefined && keepNewest === undefined)
    throw new CommandError(
      'invalid-option',
      'No criterion was given for the runs to remove',
      'Add --older-than 30d, or --keep-newest 20.',
    );
  const age = olderThan === undefined ? undefined : parseDuration(olderThan);
  if (olderThan !== undefined && !age)
    throw new CommandError(
      'invalid-option',
      `--older-than needs a duration, not "${olderThan}"`,
      'Example: 30d or 12h.',
    );
  const kept = keepNewest === undefined ? Infinity : countOf('--keep-newest', keepNewest);
  const { recordFolder } = openWorkspace(io.cwd);
  let count = 0;
  for (const [i, id] of listRuns(recordFolder).entries()) {
    const folder = path.join(recordFolder, 'runs', id);
    const at = statSync(path.join(folder, 'journal.ndjson')).mtimeMs;
    const isOld = age !== undefined && Date.now() - at > age.milliseconds;
    if ((!isOld && i < kept) || runOwner(folder) !== undefined) continue;
    rmSync(folder, { recursive: true, force: true });
    count++;
  }
  io.exit.out(`Removed ${counted(count, 'run')}\n`);
  return 0;
}

function countOf(option: string, said: string): number {
  const count = Number(said);
  if (Number.isInteger(count) && count >= 0) return count;
  throw new CommandError('invalid-option', `${option} needs a number, not "${said}"`);
}
