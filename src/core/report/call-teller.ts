import { isDone } from '../journal/call-end.ts';
import type { EventOf, JournalEvent } from '../journal/events.ts';
import { asItem, isUndo, itemOf, loopOf, stepName } from '../journal/address.ts';
import { tookOf } from './exchange.ts';
import { explainFailure, type Failure } from './failure.ts';
import { History, storedBriefly } from './history.ts';
import type { CallSummary, ExchangeSummary } from './call-summary.ts';
import type { RunSource } from './run-source.ts';

/** How often calls ended after a run went on, by their addresses. */
export type EndsAgain = ReadonlyMap<string, number>;

/**
 * Tells each call of a run when it ends, event by event; one that was done again when the run went on as it ended last. What
 * belongs to a call is forgotten with its end.
 */
export class CallTeller {
  readonly history = new History();
  private readonly exchanges = new Map<number, ExchangeSummary>();
  private readonly labels = new Map<string, string>();
  /** What was sent before for calls that end anew. */
  private readonly earlier = new Map<string, readonly ExchangeSummary[]>();
  private readonly left: Map<string, number>;
  private isResumed = false;

  constructor(
    private readonly source: RunSource,
    again: EndsAgain,
  ) {
    this.left = new Map(again);
  }

  /** The call that an event is the last end of. */
  add(event: JournalEvent): CallSummary | undefined {
    this.history.add(event);
    switch (event.type) {
      case 'resumed':
        this.isResumed = true;
        return undefined;
      case 'opened':
        if (event.item) this.labels.set(event.step, event.item.label ?? String(event.item.number));
        return undefined;
      case 'sent':
        this.exchanges.set(event.x, sentSummary(event));
        return undefined;
      case 'answered':
      case 'broken':
        endExchange(this.exchanges.get(event.x), event);
        return undefined;
      case 'ended':
        return this.ended(event);
      default:
        return undefined;
    }
  }

  private ended(event: EventOf<'ended'>): CallSummary | undefined {
    if (event.kind === 'item') this.labels.delete(event.step);
    if (event.kind !== 'call') return undefined;
    const exchanges = this.exchangesFor(event);
    if (!this.isLast(event.step)) {
      this.earlier.set(event.step, [...exchanges.earlier, ...exchanges.exchanges]);
      return undefined;
    }
    const failure = event.outcome === 'failed' ? explainFailure(event, this.history) : undefined;
    return callSummary(event, exchanges, this.labels, failure);
  }

  private isLast(step: string): boolean {
    const left = this.left.get(step);
    if (left === undefined) return true;
    if (this.isResumed) this.left.set(step, left - 1);
    return this.isResumed && left === 1;
  }

  private exchangesFor({ step, x = [], from }: EventOf<'ended'>): CallExchanges {
    const before = this.earlier.get(step) ?? [];
    const known = new Map(before.map((each) => [each.x, each]));
    const exchanges = x.flatMap((each) => this.exchanges.get(each) ?? known.get(each) ?? []);
    for (const each of x) this.exchanges.delete(each);
    const earlier = before.filter((each) => !x.includes(each.x));
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
}

/** A request that was sent, before anything came of it. */
function sentSummary({ x, at, request: { method, url }, operation }: EventOf<'sent'>): ExchangeSummary {
  return { x, method, url, operation, fromMs: at, ms: 0, status: undefined };
}

/** Notes what came of a request. */
function endExchange(exchange: ExchangeSummary | undefined, event: EventOf<'answered'> | EventOf<'broken'>): void {
  if (!exchange) return;
  if (event.type === 'broken') exchange.ms = Math.max(0, event.at - exchange.fromMs);
  else Object.assign(exchange, { status: event.status, ms: tookOf({ answered: event }) ?? 0 });
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
