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
}>;

/** Of a request that somebody says was processed, though no answer is recorded. */
export const TAKEN: CallEnd = {
  outcome: 'reused',
  requestText: undefined,
  assertionFingerprint: undefined,
  isSent: false,
  isOfItem: false,
};
