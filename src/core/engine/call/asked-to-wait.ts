import { headerOf, type HttpResponse } from '../../http/message.ts';
import { retryAfterMs } from '../../pacing/server-signals.ts';
import type { Clock } from '../../ports.ts';

/** Milliseconds after which a response asks to come again (`Retry-After`); nothing when it does not. */
export function askedToWait({ headers }: Pick<HttpResponse, 'headers'>, clock: Clock): number | undefined {
  return retryAfterMs((name) => headerOf(headers, name), clock.nowMs());
}
