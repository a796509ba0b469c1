import type { BodyRef, FailureGroup, OperationRef, Totals } from '../journal/records.ts';
import { isDone } from '../journal/call-end.ts';
import type { RunSource } from './run-source.ts';
import type { EventOf, JournalEvent } from '../journal/events.ts';
import { tookOf, type ExchangeRecord } from './exchange.ts';
import { explainFailure, type Failure } from './failure.ts';
import { History, storedBriefly } from './history.ts';
import { asItem, isUndo, itemOf, loopOf, stepName } from '../journal/address.ts';

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
  calls: readonly CallSummary[];
  /** Failed steps that are no calls, such as loops, writes and stops. */
  others: readonly FailureSummary[];
  groups: readonly FailureGroup[];
  waits: readonly Readonly<{ step: string; why: string; atMs: number; ms: number }>[];
  notes: readonly EventOf<'note'>[];
  files: readonly EventOf<'file'>[];
  outputs: Readonly<Record<string, string>>;
  /** Every request in the order in which they were sent. */
  exchanges: readonly ExchangeSummary[];
  /** All of an exchange, read when it is asked for. */
  exchange(of: Pick<ExchangeSummary, 'x' | 'run'>): ReadExchange | undefined;
}>;

/** An exchange with the bodies of its record. */
export type ReadExchange = ExchangeRecord & Readonly<{ body(ref: BodyRef | undefined): Uint8Array | undefined }>;

/** One call of a run, as it ended. */
export type CallSummary = Readonly<{
  address: string;
  name: string;
  /** The item of a loop that it was for: its label or number. */
  item: string | undefined;
  outcome: EventOf<'ended'>['outcome'];
  hasPassed: boolean;
  ms: number;
  waitedMs: number;
  tries: number;
  endedMs: number;
  why: string | undefined;
  method: string;
  url: string;
  status: number | undefined;
  binds: readonly Readonly<{ name: string; text: string; value: string }>[];
  /** What was sent for it in this run. */
  exchanges: readonly ExchangeSummary[];
  /** What was sent for it before the run was resumed. */
  earlier: readonly ExchangeSummary[];
  /** Of a call that nothing was sent for: what was sent in another run, whose responses it took over. */
  reused: readonly ExchangeSummary[];
  failure: Failure | undefined;
}>;

export type FailureSummary = Readonly<{ address: string; name: string; failure: Failure }>;

/** One request of a run, and how long it took: what a report holds of all of them. */
type ExchangeSummary = {
  readonly x: number;
  /** The run that sent it, where that is another one. */
  readonly run?: string;
  readonly method: string;
  readonly url: string;
  /** The operation of a description that it belongs to. */
  readonly operation?: OperationRef | undefined;
  /** When it went out, and milliseconds up to its answer or to its end without one. */
  readonly fromMs: number;
  ms: number;
  status: number | undefined;
};

/** Tells a run. */
export function summarizeRun(source: RunSource): RunSummary {
  const telling = new Summarizing(source);
  for (const event of source.events) telling.add(event);
  return telling.finish();
}

class Summarizing {
  private readonly history = new History();
  private readonly exchanges = new Map<number, ExchangeSummary>();
  private readonly calls = new Map<string, CallSummary>();
  private readonly others: FailureSummary[] = [];
  private readonly groups: FailureGroup[] = [];
  private readonly waits: { step: string; why: string; atMs: number; ms: number }[] = [];
  private readonly notes: EventOf<'note'>[] = [];
  private readonly files: EventOf<'file'>[] = [];
  private readonly labels = new Map<string, string>();
  private run: EventOf<'run'> | undefined;
  private end: EventOf<'finished' | 'paused'> | undefined;
  private firstMs: number | undefined;
  private lastMs = 0;

  constructor(private readonly source: RunSource) {}

  add(event: JournalEvent): void {
    this.history.add(event);
    this.firstMs ??= event.at;
    this.lastMs = event.at;
    switch (event.type) {
      case 'run':
        this.run ??= event;
        return;
      case 'opened':
        if (event.item) this.labels.set(event.step, event.item.label ?? String(event.item.number));
        return;
      case 'sent': {
        const { x, at, request, operation } = event;
        const { method, url } = request;
        this.exchanges.set(x, { x, method, url, operation, fromMs: at, ms: 0, status: undefined });
        return;
      }
      case 'answered': {
        const exchange = this.exchanges.get(event.x);
        if (exchange) Object.assign(exchange, { status: event.status, ms: tookOf({ answered: event }) ?? 0 });
        return;
      }
      case 'broken': {
        const exchange = this.exchanges.get(event.x);
        if (exchange) exchange.ms = Math.max(0, event.at - exchange.fromMs);
        return;
      }
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
    const failure = event.outcome === 'failed' ? explainFailure(event, this.history) : undefined;
    // A call that was done again when the run went on is told as it ended last.
    if (event.kind === 'call')
      this.calls.set(event.step, callSummary(event, this.exchangesFor(event), this.labels, failure));
    else if (failure && event.problem) this.others.push({ address: event.step, name: stepName(event.step), failure });
  }

  private exchangesFor({ step, x = [], from }: EventOf<'ended'>): CallExchanges {
    const exchanges = x.flatMap((each) => this.exchanges.get(each) ?? []);
    const before = this.calls.get(step);
    const earlier = [...(before?.earlier ?? []), ...(before?.exchanges ?? [])].filter((each) => !x.includes(each.x));
    if (exchanges.length > 0 || !from) return { exchanges, earlier, reused: [] };
    const other = this.source.other?.(from.run);
    const reused = from.x.flatMap((each): readonly ExchangeSummary[] => {
      const found = other?.exchange(each);
      if (!found) return [];
      const { method, url } = found.sent.request;
      const { status } = found.answered ?? {};
      return [{ x: each, run: from.run, method, url, fromMs: found.sent.at, ms: tookOf(found) ?? 0, status }];
    });
    return { exchanges, earlier, reused };
  }

  finish(): RunSummary {
    const { run, end, others, groups, waits, notes, files, source } = this;
    const { id } = source;
    return {
      id,
      // A damaged record may have lost its first line.
      name: run?.name ?? id,
      file: run?.chain ?? '',
      where: run ? whereOf(run) : '',
      startedMs: this.firstMs ?? 0,
      endedMs: this.lastMs,
      outcome: end?.type === 'finished' ? end.outcome : 'open',
      exit: end?.exit,
      totals: end?.totals,
      calls: [...this.calls.values()].sort((left, right) => begunMs(left) - begunMs(right)),
      others,
      groups,
      waits,
      notes,
      files,
      outputs: end?.type === 'finished' ? outputsOf(end) : {},
      exchanges: [...this.exchanges.values()],
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

function outputsOf({ outputs }: EventOf<'finished'>): Readonly<Record<string, string>> {
  return Object.fromEntries(Object.entries(outputs).map(([name, stored]) => [name, storedBriefly(stored)]));
}

type CallExchanges = Pick<CallSummary, 'exchanges' | 'earlier' | 'reused'>;

function callSummary(
  event: EventOf<'ended'>,
  { exchanges, earlier, reused }: CallExchanges,
  labels: ReadonlyMap<string, string>,
  failure: Failure | undefined,
): CallSummary {
  const all = [...exchanges, ...reused];
  const [first] = all;
  const item = itemName(event, labels);
  return {
    address: event.step,
    name: `${event.name ?? stepName(event.step)}${isUndo(event.step) ? ' (undo)' : ''}`,
    item,
    outcome: event.outcome,
    hasPassed: isDone(event),
    ms: event.ms,
    waitedMs: event.waitedMs ?? 0,
    tries: event.tries ?? 1,
    endedMs: event.at,
    why: event.why,
    method: first?.method ?? '',
    url: first?.url ?? '',
    status: all.at(-1)?.status,
    binds: (event.binds ?? []).map(({ name, text, value }) => ({ name, text, value: storedBriefly(value) })),
    exchanges,
    earlier,
    reused,
    failure,
  };
}

/** What the items are called that a step was for, the outermost first; nothing outside of loops. */
function itemName(event: EventOf<'ended'>, labels: ReadonlyMap<string, string>): string | undefined {
  const names: string[] = [];
  let inside = itemOf(event.step);
  const own = event.item?.label;
  while (inside !== '') {
    const number = String(asItem(inside)!.number);
    names.unshift((names.length === 0 ? own : undefined) ?? labels.get(inside) ?? number);
    inside = itemOf(loopOf(inside)!);
  }
  return names.length === 0 ? undefined : names.join(' / ');
}

/** In the order in which they began. */
function begunMs({ exchanges, endedMs, ms }: CallSummary): number {
  return exchanges[0]?.fromMs ?? endedMs - ms;
}

/** The name of a call that stays the same from run to run: with the item that it was for. */
export function stableName({ name, item }: Pick<CallSummary, 'name' | 'item'>): string {
  return item === undefined ? name : `${name} [${item}]`;
}
