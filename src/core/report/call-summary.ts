import type { OperationRef } from '../journal/records.ts';
import type { EventOf } from '../journal/events.ts';
import type { Failure } from './failure.ts';

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

/** One request of a run, and how long it took: what a report holds of all of them. */
export type ExchangeSummary = {
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

/** The name of a call that stays the same from run to run: with the item that it was for. */
export function stableName({ name, item }: Pick<CallSummary, 'name' | 'item'>): string {
  return item === undefined ? name : `${name} [${item}]`;
}
