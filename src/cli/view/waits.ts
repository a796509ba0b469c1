import type { WaitReason } from '../../core/journal/records.ts';
import type { EventOf, TransientBody } from '../../core/journal/events.ts';
import { storedShown } from '../../core/report/history.ts';
import { spent } from '../../core/value/show.ts';

/** What is waited for, in words, by the reason. */
const REASONS: Readonly<Record<WaitReason, string>> = {
  'rate-limit': ' for the rate limit',
  quota: ' for the quota',
  server: ':',
  retry: ' to retry after',
  poll: '',
  repeat: ' for the next round',
  wait: '',
  receive: ' for a callback',
  credential: ' for a credential',
  ask: ' for your answer',
  'shared-limits': ':',
};

/** Milliseconds that are still to be waited, from which on they are told. */
const SHORTEST_TOLD_MS = 100;

/** Something that is waited for at the moment. */
export type Waiting = Extract<TransientBody, { type: 'waiting' }> & Readonly<{ why: WaitReason }>;

/** `waiting 400 ms for the rate limit 8/s`, `waiting 2.0 s: the server asked for it (429, Retry-After: 2)`. */
export function reasonWords({ why, detail = '', until }: Waiting, now: number): string {
  const left = until === undefined || until - now < SHORTEST_TOLD_MS ? '' : ` ${spent(until - now)}`;
  // What a poll saw is shown with its last attempt.
  if (why === 'poll') return `waiting for the next poll${left === '' ? '' : ` (${left.trim()})`}`;
  const reason = why === 'retry' && detail.startsWith('the server') ? ':' : REASONS[why];
  return `waiting${left}${reason}${detail === '' ? '' : ` ${detail}`}`;
}

/** What conditions read in the last look, or the last round. */
export function attemptWords({ seen }: EventOf<'attempted'>): string {
  return Object.values(seen).map(storedShown).join(' ');
}

/** How far what is polled says that it is; empty when it does not. */
export function progressBar({ progress }: EventOf<'attempted'>, width: number): string {
  if (progress === undefined) return '';
  const filled = Math.floor((progress / 100) * width);
  return `${'\u2588'.repeat(filled)}${'\u2591'.repeat(width - filled)} ${Math.round(progress)} %`;
}

/** How a run that stopped before its end goes on. */
export function goOnWords({ until }: EventOf<'paused'>, run: string): string {
  const when = until === undefined ? '' : ` after ${new Date(until).toISOString().replace('.000', '')}`;
  return `To resume${when}: batharon resume ${run}`;
}
