import type { Clock } from '../ports.ts';
import { RateLimiter, type LimiterOptions } from './rate-limiter.ts';
import type { LimiterStore } from './limiter-store.ts';
import { sharedRateLimit, type Share } from './rate-limit.ts';

/** The rate limiters of a run: one for each api at its deployment, for each foreign origin, and for each call with a rate limit of its own. */
export class RateLimiters {
  private readonly limiters = new Map<string, RateLimiter>();

  constructor(
    readonly store: LimiterStore,
    private readonly clock: Clock,
    private readonly share: Share | undefined,
  ) {}

  /** The rate limiter of a name; made when it is first asked for. */
  limiter(options: LimiterOptions): RateLimiter {
    let limiter = this.limiters.get(options.name);
    if (!limiter) {
      const share = this.store.isShared ? undefined : this.share;
      const rateLimit = share ? sharedRateLimit(options.rateLimit, share) : options.rateLimit;
      limiter = new RateLimiter({ ...options, rateLimit }, this.store, this.clock);
      this.limiters.set(options.name, limiter);
    }
    return limiter;
  }

  all(): readonly RateLimiter[] {
    return [...this.limiters.values()];
  }
}
