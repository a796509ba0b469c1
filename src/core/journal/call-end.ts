import type { EventOf } from './events.ts';

/** Outcomes of a step that needs not be done again. */
const DONE: ReadonlySet<string> = new Set(['passed', 'reused', 'fresh']);

export function isDone({ outcome }: Pick<EventOf<'ended'>, 'outcome'>): boolean {
  return DONE.has(outcome);
}

/** How a call ended, as far as it matters for going on; one for all that ended alike. */
export type CallEnd = Readonly<{
  outcome: EventOf<'ended'>['outcome'];
  requestText: string | undefined;
  assertionFingerprint: string | undefined;
  /** Whether requests of this run stand for it. */
  isSent: boolean;
  /** Whether it failed for an item of a loop. */
  isOfItem: boolean;
  /** Whether the record holds all that came of it, and there was nothing to note. */
  isWhole: boolean;
  /** Its expectations, and those that held. */
  expects: number;
  passed: number;
}>;

/** How a call ended, by the event; `isWhole` as far as its exchanges and notes tell. */
export function callEndOf(event: EventOf<'ended'>, isWhole: boolean): CallEnd {
  const { outcome, requestText, assertionFingerprint, x = [], item, expects = [], binds, from } = event;
  return {
    outcome,
    requestText,
    assertionFingerprint,
    isSent: x.length > 0,
    isOfItem: item !== undefined,
    isWhole: isWhole && from === undefined && !binds?.some(({ masked }) => masked),
    expects: expects.length,
    passed: expects.filter(({ passed }) => passed).length,
  };
}

/** Of a request that somebody says was processed, though no answer is recorded. */
export const TAKEN: CallEnd = {
  outcome: 'reused',
  requestText: undefined,
  assertionFingerprint: undefined,
  isSent: false,
  isOfItem: false,
  isWhole: false,
  expects: 0,
  passed: 0,
};
