/** How a failed request is tried again: requests in all, the pauses between them, and after what. */
export type Retry = Readonly<{
  tries: number;
  wait: Readonly<{ firstMs: number; lastMs: number }>;
  on: readonly RetryOn[];
}>;

/** `connection`, `timeout`, a status, or a class of them such as `5xx`. */
export type RetryOn = 'connection' | 'timeout' | number | `${number}xx`;

export const DEFAULT_RETRY: Retry = {
  tries: 3,
  wait: { firstMs: 500, lastMs: 10_000 },
  on: ['connection', 'timeout', 429, 502, 503, 504],
};

/** Requests in all that follow a server's `Retry-After` where no `retry` says how many, and the least pause before the second. */
const MAX_TRIES_ASKED = 5;
const LEAST_PAUSE_MS = 200;

/** Time that waits for a server's `Retry-After` may take together, unless said. */
export const DEFAULT_MAX_WAIT_MS = 60_000;

/** How a try went that was not what was hoped for. */
export type Tried = Readonly<{
  /** The status of its response, or why there was none. */
  outcome: number | 'connection' | 'timeout' | 'other';
  /** Whether the server may have acted on it. */
  reached: 'no' | 'maybe';
  retryAfterMs: number | undefined;
}>;

export type Retrying = Readonly<{
  retry: Retry | undefined;
  /** Whether it may be sent again although it may have arrived. */
  isRepeatable: boolean;
  /** Requests so far, the first counted as 1. */
  tries: number;
  /** Milliseconds that were waited for the server so far, and may be waited in all. */
  waitedMs: number;
  maxWaitMs: number;
  /** From 0 up to, but not including, 1: how much of the longest pause is taken. */
  random: number;
}>;

export type Decision =
  | Readonly<{ again: number; why: string }>
  /** It would be sent again, but may have arrived. */
  | Readonly<{ not: 'repeatable' }>
  /** The server asks for a longer wait than is allowed. */
  | Readonly<{ not: 'so-long'; retryAfterMs: number }>
  | Readonly<{ not: 'meant' | 'tries-left' }>;

/**
 * Whether a failed try is followed by another, and after how many milliseconds. Without a `retry` only a server that says
 * when to come again is asked again. The pause is drawn from nothing up to a bound that doubles (full jitter), and is never
 * shorter than the server's `Retry-After`.
 */
export function decideRetry(tried: Tried, retrying: Retrying): Decision {
  const { outcome, retryAfterMs = 0 } = tried;
  const { retry, tries, waitedMs, maxWaitMs, random } = retrying;
  const not = retry ? whyNotAgain(retry, tried, retrying) : whyNotAsked(tried, retrying);
  if (not !== undefined) return { not };
  const isTooLong = retry ? retryAfterMs > maxWaitMs : waitedMs + retryAfterMs > maxWaitMs;
  if (isTooLong) return { not: 'so-long', retryAfterMs };
  const { firstMs, lastMs } = retry?.wait ?? { firstMs: 0, lastMs: 0 };
  const bound = Math.min(lastMs, firstMs * 2 ** (tries - 1));
  // Whatever a server says, it is never asked again at full speed.
  const least = tried.retryAfterMs === undefined ? 0 : LEAST_PAUSE_MS * 2 ** Math.min(tries - 1, MAX_TRIES_ASKED);
  return {
    again: Math.max(retryAfterMs, random * bound, least),
    why: typeof outcome === 'number' ? String(outcome) : outcome,
  };
}

type Not = 'meant' | 'tries-left' | 'repeatable';

function whyNotAgain(retry: Retry, { outcome, reached }: Tried, { tries, isRepeatable }: Retrying): Not | undefined {
  if (!retry.on.some((each) => fits(each, outcome))) return 'meant';
  if (tries >= retry.tries) return 'tries-left';
  return reached === 'no' || outcome === 429 || isRepeatable ? undefined : 'repeatable';
}

/** Without a `retry` only a server that says when to come again is asked again. */
function whyNotAsked({ outcome, retryAfterMs }: Tried, { tries, isRepeatable }: Retrying): Not | undefined {
  const isAsked = retryAfterMs !== undefined && (outcome === 429 || (outcome === 503 && isRepeatable));
  if (!isAsked) return 'meant';
  return tries >= MAX_TRIES_ASKED ? 'tries-left' : undefined;
}

function fits(on: RetryOn, outcome: Tried['outcome']): boolean {
  if (on === outcome) return true;
  return typeof outcome === 'number' && typeof on === 'string' && on === `${Math.floor(outcome / 100)}xx`;
}
