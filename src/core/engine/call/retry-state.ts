import { mayRepeat } from '../../chain/changes.ts';
import { decideRetry, DEFAULT_MAX_WAIT_MS, type Decision, type Tried } from '../../pacing/retry.ts';
import type { Clock } from '../../ports.ts';
import { evaluate } from '../../expression/evaluate.ts';
import { Duration } from '../../value/value.ts';
import { askedToWait } from './asked-to-wait.ts';
import { readResponse } from './read.ts';
import type { Sent } from './sent.ts';
import type { CallSite } from './site.ts';

/** The tries of one request: whether a further one is to be made, and how long the server was waited for so far. */
export class RetryState {
  count = 0;
  readonly reasons: string[] = [];
  private waitedMs = 0;

  constructor(private readonly site: CallSite) {}

  /** What to do after a try; nothing when it is not asked of retrying at all. */
  decide(sent: Sent): Decision {
    const { context } = this.site;
    const tried = this.asked(triedOf(sent, context.run.clock), sent);
    if (!tried) return { not: 'meant' };
    const decision = decideRetry(tried, this.rules());
    // A limit that opens so late pauses the run, unless it is told to stay.
    const isWaitedFor = 'not' in decision && decision.not === 'so-long' && tried.outcome === 429;
    if (isWaitedFor && context.run.settings.waitForQuota) {
      this.reasons.push('429');
      return { again: decision.retryAfterMs, why: '429' };
    }
    if ('again' in decision) {
      this.waitedMs += decision.again;
      this.reasons.push(decision.why);
    }
    return decision;
  }

  /** With what the body asks to wait, beside `Retry-After`; the longer counts. */
  private asked(tried: Tried | undefined, sent: Sent): Tried | undefined {
    const { step, endpoint } = this.site;
    const { after } = step.retry ?? endpoint?.retry ?? {};
    if (!tried || !after?.tree || !('response' in sent)) return tried;
    const { frame } = readResponse(this.site, sent, { tookMs: 0, tries: this.count });
    const { value } = evaluate(after.tree, frame);
    if (!(value instanceof Duration) || value.milliseconds < 0) return tried;
    return { ...tried, retryAfterMs: Math.max(tried.retryAfterMs ?? 0, value.milliseconds) };
  }

  private rules(): Parameters<typeof decideRetry>[1] {
    const { step, endpoint, context } = this.site;
    const [draw = 0, more = 0] = context.host.fixedBytes(`try ${this.count}`, 2);
    return {
      retry: step.retry ?? endpoint?.retry,
      isRepeatable: mayRepeat(step),
      tries: this.count,
      waitedMs: this.waitedMs,
      maxWaitMs: step.maxWaitMs ?? endpoint?.maxWaitMs ?? DEFAULT_MAX_WAIT_MS,
      random: (draw * 256 + more) / 65_536,
    };
  }
}

function triedOf(sent: Sent, clock: Clock): Tried | undefined {
  if ('broken' in sent) {
    const { code, reached, cause } = sent.broken;
    const outcome =
      code === 'timed-out' ? 'timeout' : code === 'no-connection' && cause !== 'interrupted' ? 'connection' : 'other';
    return { outcome, reached, retryAfterMs: undefined };
  }
  if (!('response' in sent)) return undefined;
  const { status } = sent.response;
  if (status < 400) return undefined;
  return { outcome: status, reached: 'maybe', retryAfterMs: askedToWait(sent.response, clock) };
}
