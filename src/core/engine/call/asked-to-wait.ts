import { headerOf, type HttpResponse } from '../../http/message.ts';
import { retryAfterMs } from '../../pacing/server-signals.ts';
import type { Clock } from '../../ports.ts';

/** Why a response is waited after, in words, where the server asked for it. */
export function askedInWords({ status, headers }: Pick<HttpResponse, 'status' | 'headers'>): string | undefined {
  const field = headerOf(headers, 'retry-after');
  return field === undefined ? undefined : `the server asked for it (${status}, Retry-After: ${field})`;
}

/** Milliseconds after which a response asks to come again (`Retry-After`); nothing when it does not. */
export function askedToWait({ headers }: Pick<HttpResponse, 'headers'>, clock: Clock): number | undefined {
  return retryAfterMs((name) => headerOf(headers, name), clock.nowMs());
}
