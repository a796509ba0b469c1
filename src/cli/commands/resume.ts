import { KnownRun } from '../view/known-run.ts';
import { type Resuming, runAndWrite, type RunOptions } from '../show-run.ts';
import { readAt } from '../../runner/deployments.ts';
import type { Command } from 'commander';
import path from 'node:path';
import { runOwner } from '../../adapters/journal-files.ts';
import { endsOfRun, listRuns, type RecordedRun } from '../../adapters/journal-reader.ts';
import { recordedSlice } from '../../core/engine/slices.ts';
import type { Part, RunSettings } from '../../core/engine/settings.ts';
import type { Chain } from '../../core/chain/model.ts';
import type { CallRecords } from '../../core/journal/call-records.ts';
import type { SettledBody } from '../../core/journal/events.ts';
import type { Recorded } from '../../core/engine/recorded.ts';
import { present } from '../../core/value/present.ts';
import { recordedCalls } from '../../adapters/recorded-calls.ts';
import type { EventOf, JournalEvent } from '../../core/journal/events.ts';
import { resumePlanOf, type ResumePlan, type Tally } from '../../core/engine/resume-plan.ts';
import { counted, grouped } from '../../core/value/show.ts';
import type { ExitStatus, Io } from '../io.ts';
import { defaultRecordId, isRun, openRecord, recordId } from '../../runner/record.ts';
import { whereOf, recordedInputs, CLEANING_UP } from '../../runner/recorded-run.ts';
import { CommandError } from '../../runner/command-error.ts';
import { askOne } from '../ask-one.ts';
import { doubtsLeft, settleDoubts, settlementsOf, type Answers } from '../settling.ts';
import { loadChain, openProject, type Workspace } from '../../runner/workspace.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = Omit<RunOptions, 'at' | 'settings'> &
  Readonly<{
    waitForQuota?: boolean;
    strict?: boolean;
    cleanup?: boolean;
    failed?: boolean;
    all?: boolean;
    last?: boolean;
  }> &
  Answers;

/** `resume [RUN]`: continues a run that stopped, with the files as they are now. What was done is not done again. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[run]', 'run to resume (default: the newest)')
      .option('--failed', 'also try the failed items again')
      .option('--cleanup', 'only undo and clean up; send nothing else')
      .option('--all', 'continue after --first or --sample with the remaining items')
      .option('--last', 'of a slice: it is the last to end, and runs what is once: last-slice')
      .option(
        '--sent <address>',
        'the request in doubt at this address, or all, was processed (repeatable)',
        several,
        [],
      )
      .option(
        '--not-sent <address>',
        'the request in doubt at this address, or all, was not processed (repeatable)',
        several,
        [],
      )
      .option(
        '--kept <address:name=value>',
        'what a request that was processed would have kept; says --sent for it (repeatable)',
        several,
        [],
      )
      .option(
        '--resend <address>',
        'send the change at this address, or all, again: its request is a different one now (repeatable)',
        several,
        [],
      )
      .option(
        '--skip <address>',
        'keep what was done at this address, or all, although its request is a different one now (repeatable)',
        several,
        [],
      )
      .option('--input <name=value>', 'another value for an input (repeatable)', several, [])
      .option('--inputs-from <file>', 'read inputs from a YAML or JSON file')
      .option(
        '--allow-changes <deployment>',
        'allow changes at a guarded deployment, by name (repeatable)',
        several,
        [],
      )
      .option('--wait-for-quota', 'wait for a spent quota instead of pausing the run')
      .option('--strict', 'count a call that needed several attempts, and notes, as failed')
      .option('--out <file>', "write the chain's outputs as JSON; - for standard output")
      .option('--quiet', 'show failures only')
      .option('--verbose', 'show every request, and every step inside loops')
      .action((id: string | undefined, options: Options) => run((io) => execute(id, options, io)));
    examples(
      sub,
      'batharon resume',
      'batharon resume 0523-1412-7k --failed',
      'batharon resume --not-sent 2#5.2',
      'batharon resume --kept 1/make:id=4711',
      'batharon resume --cleanup',
    );
  },
};

/** Resumes, and asks about requests that changed since they were sent, where there is somebody to ask. */
async function execute(id: string | undefined, options: Options, io: Io): Promise<ExitStatus> {
  const canAsk = io.mayAsk;
  const workspace = openProject(io.cwd);
  let record = openRecord(workspace, id ?? defaultRecordId(workspace, recordId(workspace, newestWhole(workspace)), io));
  for (let said = options; ;) {
    const exit = await goOn(record, said, workspace, io);
    if (!canAsk || exit !== 3) return exit;
    record = openRecord(workspace, record.id);
    const end = record.journal.last();
    if (end?.type !== 'paused' || end.why !== 'changed' || end.step === undefined) return exit;
    const answer = await askOne(`Send ${end.step} again?`, CHANGED, io);
    if (answer === undefined) return exit;
    // What was said before is in the journal by now.
    said = { ...said, sent: [], notSent: [], kept: [], resend: [], skip: [], [answer]: [end.step] };
  }
}

const CHANGED = {
  'send it as it is now': 'resend',
  'keep what was done': 'skip',
  'stop here': undefined,
} as const;

/** The newest run that is not of one call alone. */
function newestWhole({ recordFolder }: Workspace): string {
  return (
    listRuns(recordFolder).find((id) => {
      const ends = endsOfRun(recordFolder, id);
      return isRun(ends) && !isAlone(ends.at(-1));
    }) ?? 'last'
  );
}

function isAlone(end: JournalEvent | undefined): boolean {
  return end?.type === 'paused' && end.why === 'only';
}

async function goOn(record: RecordedRun, options: Options, workspace: Workspace, io: Io): Promise<ExitStatus> {
  const first = resumable(record);
  const last = record.journal.last();
  const end = last?.type === 'finished' || last?.type === 'paused' ? last : undefined;
  if (end?.type === 'finished' && end.outcome === 'passed' && !options.all) {
    io.exit.out(`The run ${record.id} has passed; there is nothing to resume.\n`);
    return 0;
  }
  const file = path.relative(io.cwd, path.join(workspace.folder, first.chain));
  const where = whereOf(first);
  const chainNow = () => loadChain(workspace, file, readAt(where, io.environment, workspace.project)).chain;
  const known = new KnownRun();
  const records = recordedCalls(record, (event) => known.addBefore(event));
  const settled = await settledOf(record, records, options, chainNow, io);
  if (!settled) return 3;
  const recorded = recordedFor(options, settled, end);
  const from: Resuming = {
    known,
    recorded,
    record,
    inputs: recordedInputs(first, record, true),
    heading: options.cleanup
      ? CLEANING_UP
      : (files) =>
          headingOf(
            record.id,
            resumePlanOf({ ...files, records: settled.records, failed: recorded.failed, changed: recorded.changed }),
            end,
          ),
  };
  const { now, seed } = first;
  const settings = settingsOf(first, options);
  return runAndWrite(file, { ...options, seed, ...present({ now: now ?? undefined }), ...where, settings }, io, from);
}

/** As it was begun, and what is said of going on. */
function settingsOf(begun: EventOf<'run'>, options: Options): RunSettings {
  const { part } = begun.options as { part?: Part };
  const slice = recordedSlice(begun);
  const { waitForQuota, strict, cleanup: cleanupOnly, all, last: isLast } = options;
  const own = slice && { ...slice, isLast };
  return { waitForQuota, strict, cleanupOnly, part: all ? undefined : part, slice: own };
}

type RunEnd = EventOf<'finished' | 'paused'>;

/** The first event of a run that can be gone on with. Throws `CommandError` for any other. */
function resumable(record: RecordedRun): EventOf<'run'> {
  const [first] = record.journal;
  if (first?.type !== 'run' || first.chain === '')
    throw new CommandError('run-not-found', `${record.id} is not a run of a chain`, 'To list the runs: batharon runs');
  if (isAlone(record.journal.last()))
    throw new CommandError(
      'run-not-found',
      `The run ${record.id} was for a single call (--only) and cannot be resumed`,
      'Run the chain without --only.',
    );
  const owner = runOwner(record.folder);
  if (owner === undefined) return first;
  const advice = 'Wait until it ends, or stop it.';
  throw new CommandError('run-under-way', `Process ${owner} is running the run ${record.id}`, advice);
}

type Settled = Readonly<{ records: CallRecords; settled: readonly SettledBody[] }>;

/** The recorded calls with what the command line, and whoever is asked, says of them; nothing where one stays in doubt. */
async function settledOf(
  record: RecordedRun,
  records: CallRecords,
  options: Options,
  chainNow: () => Chain | undefined,
  io: Io,
): Promise<Settled | undefined> {
  const said = settlementsOf(options, record, records);
  for (const each of said) records.settle(each);
  const answered = await settleDoubts(doubtsLeft(records, chainNow), record, io);
  for (const each of answered ?? []) records.settle(each);
  return answered && { records, settled: [...said, ...answered] };
}

function recordedFor(
  { failed = false, resend, skip, sent, notSent }: Options,
  { records, settled }: Settled,
  end: RunEnd | undefined,
): Recorded {
  return {
    mode: 'go-on',
    records,
    isSameRun: true,
    ended: end?.type === 'finished' ? end.outcome : undefined,
    failed,
    changed: firstOf({ resend, skip }),
    lost: firstOf({ sent, 'not-sent': notSent }),
    settled,
  };
}

/** The first of some options that was said of all requests. */
function firstOf<T extends string>(options: Readonly<Record<T, readonly string[]>>): T | undefined {
  return (Object.keys(options) as T[]).find((name) => options[name].includes('all'));
}

const PAUSED: Readonly<Record<EventOf<'paused'>['why'], string>> = {
  interrupt: 'interrupted',
  quota: 'stopped at a spent quota',
  'shared-limits': 'stopped without the Redis of its limits',
  doubt: 'stopped at a request in doubt',
  changed: 'stopped at a change that is a different one now',
  within: 'stopped at its time limit (--within)',
  to: 'stopped at the call of --to',
  only: 'limited to a single call (--only)',
  watch: 'watched (--watch), and not cleaned up',
};

function pausedHow({ why, detail }: EventOf<'paused'>): string {
  return why === 'to' && detail !== undefined ? `stopped at ${detail} (--to)` : PAUSED[why];
}

function headingOf(run: string, resumePlan: ResumePlan, end: RunEnd | undefined): string {
  const how = end === undefined ? 'killed' : end.type === 'paused' ? pausedHow(end) : 'failed';
  const again = end?.type === 'finished' ? '; its cleanup has run already, and runs again once something is sent' : '';
  const { done, judgedAgain, toSend, changed, mayFollow, cleanup, isAtLeast } = resumePlan;
  const from = ({ first }: Tally) => (first === undefined ? '' : ` (from ${first})`);
  const counts = [
    `${counted(done.count, 'call')} done${from(done)}`,
    `${grouped(judgedAgain.count)} re-evaluated${from(judgedAgain)}`,
    `${isAtLeast ? 'at least ' : ''}${grouped(toSend.count)} to send${from(toSend)}`,
    ...(changed.count > 0 ? [`${grouped(changed.count)} changed since sent${from(changed)}`] : []),
    ...(mayFollow.count > 0 ? [`and up to ${grouped(mayFollow.count)} more, which depend on ${mayFollow.first}`] : []),
    ...(cleanup > 0 && end?.type !== 'finished' ? [`then ${counted(cleanup, 'call')} of its cleanup`] : []),
  ];
  return `resuming run ${run}, ${how}${again}\n${counts.join(', ')}`;
}
