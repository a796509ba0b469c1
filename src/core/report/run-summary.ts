import type { FailureGroup, Totals } from '../journal/records.ts';
import type { RunSource } from './run-source.ts';
import type { EventOf, JournalEvent } from '../journal/events.ts';
import { callsOf, CallTally, type CallList } from './call-list.ts';
import { CallTeller } from './call-teller.ts';
import type { ExchangeSummary } from './call-summary.ts';
import type { ReadExchange } from './exchange.ts';
import { exchangeList } from './exchange-list.ts';
import { explainFailure, type Failure } from './failure.ts';
import { storedBriefly } from './history.ts';
import { stepName } from '../journal/address.ts';

/** A run as reports tell it, from its events alone. */
export type RunSummary = Readonly<{
  id: string;
  /** The chain's name, and its file in the project. */
  name: string;
  file: string;
  where: string;
  startedMs: number;
  endedMs: number;
  /** `open` of a run that was killed, goes on, or pauses. */
  outcome: 'passed' | 'failed' | 'open';
  exit: number | undefined;
  totals: Totals | undefined;
  calls: CallList;
  /** Failed steps that are no calls, such as loops, writes and stops. */
  others: readonly FailureSummary[];
  groups: readonly FailureGroup[];
  waits: readonly Readonly<{ step: string; why: string; atMs: number; ms: number }>[];
  notes: readonly EventOf<'note'>[];
  files: readonly EventOf<'file'>[];
  outputs: Readonly<Record<string, string>>;
  /** Every request in the order in which they were sent. */
  exchanges: Iterable<ReadExchange>;
  /** Whether any of them belongs to an operation of a description. */
  hasOperations: boolean;
  /** All of an exchange, read when it is asked for. */
  exchange(of: Pick<ExchangeSummary, 'x' | 'run'>): ReadExchange | undefined;
}>;

export type FailureSummary = Readonly<{ address: string; name: string; failure: Failure }>;

/** Tells a run. */
export function summarizeRun(source: RunSource): RunSummary {
  const telling = new Summarizing(source);
  for (const event of source.events) telling.add(event);
  return telling.finish();
}

/** What is held of a run: all but its calls and exchanges. */
class Summarizing {
  /** Tells calls as if the run had never gone on: right for most runs, and needs no second look at them. */
  private readonly teller: CallTeller;
  private readonly tally = new CallTally();
  private readonly again = new Map<string, number>();
  private readonly others: FailureSummary[] = [];
  private readonly groups: FailureGroup[] = [];
  private readonly waits: { step: string; why: string; atMs: number; ms: number }[] = [];
  private readonly notes: EventOf<'note'>[] = [];
  private readonly files: EventOf<'file'>[] = [];
  private run: EventOf<'run'> | undefined;
  private end: EventOf<'finished' | 'paused'> | undefined;
  private firstMs: number | undefined;
  private lastMs = 0;
  private isResumed = false;
  private hasOperations = false;

  constructor(private readonly source: RunSource) {
    this.teller = new CallTeller(source, this.again);
  }

  add(event: JournalEvent): void {
    const call = this.teller.add(event);
    if (call) this.tally.add(call);
    this.firstMs ??= event.at;
    this.lastMs = event.at;
    switch (event.type) {
      case 'run':
        this.run ??= event;
        return;
      case 'resumed':
        this.isResumed = true;
        return;
      case 'sent':
        this.hasOperations ||= event.operation !== undefined;
        return;
      case 'waited':
        this.waits.push({ step: event.step, why: event.why, atMs: event.at - event.ms, ms: event.ms });
        return;
      case 'note':
        this.notes.push(event);
        return;
      case 'file':
        if (!event.before) this.files.push(event);
        return;
      case 'ended':
        this.ended(event);
        return;
      case 'finished':
      case 'paused':
        this.end = event;
        return;
      default:
    }
  }

  private ended(event: EventOf<'ended'>): void {
    this.groups.push(...(event.groups ?? []));
    const { step, kind, outcome, problem } = event;
    if (kind === 'call') {
      if (this.isResumed) this.again.set(step, (this.again.get(step) ?? 0) + 1);
      return;
    }
    const failure = outcome === 'failed' && problem ? explainFailure(event, this.teller.history) : undefined;
    if (failure) this.others.push({ address: step, name: stepName(step), failure });
  }

  finish(): RunSummary {
    const { run, end, others, groups, waits, notes, files, source, again, hasOperations } = this;
    const { id } = source;
    return {
      id,
      // A damaged record may have lost its first line.
      name: run?.name ?? id,
      file: run?.chain ?? '',
      where: run ? whereOf(run) : '',
      startedMs: this.firstMs ?? 0,
      endedMs: this.lastMs,
      ...endOf(end),
      calls: callsOf(source, again, this.isResumed ? undefined : this.tally),
      others,
      groups,
      waits,
      notes,
      files,
      exchanges: exchangeList(source),
      hasOperations,
      exchange: ({ x, run: by }) => {
        const from = by === undefined ? source : source.other?.(by);
        const found = from?.exchange(x);
        return found && { ...found, body: (ref) => ref && from!.body(ref) };
      },
    };
  }
}

/** `harbour at sandbox, office`. */
function whereOf({ apis }: EventOf<'run'>): string {
  return apis.map(({ name, deployment }) => (deployment === null ? name : `${name} at ${deployment}`)).join(', ');
}

/** How a run ended, as far as it did. */
function endOf(
  end: EventOf<'finished' | 'paused'> | undefined,
): Pick<RunSummary, 'outcome' | 'exit' | 'totals' | 'outputs'> {
  const { exit, totals } = end ?? {};
  const isOver = end?.type === 'finished';
  return { outcome: isOver ? end.outcome : 'open', exit, totals, outputs: isOver ? outputsOf(end) : {} };
}

function outputsOf({ outputs }: EventOf<'finished'>): Readonly<Record<string, string>> {
  return Object.fromEntries(Object.entries(outputs).map(([name, stored]) => [name, storedBriefly(stored)]));
}
