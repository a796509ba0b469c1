/** Reads a field of a response's headers, in any case of its name. */
export type FieldOf = (name: string) => string | undefined;

/** What is left of one policy of a server, and the milliseconds until it begins anew. */
export type Remaining = Readonly<{ name: string; remaining: number; resetMs: number }>;

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** An HTTP date in any of its three forms (RFC 9110 section 5.6.7), in milliseconds since 1970. */
export function httpDate(text: string): number | undefined {
  const time = '(\\d\\d):(\\d\\d):(\\d\\d)';
  const fixed = new RegExp(`^\\w{3}, (\\d\\d) (\\w{3}) (\\d{4}) ${time} GMT$`).exec(text);
  if (fixed) return instant(fixed[3]!, fixed[2]!, fixed[1]!, fixed.slice(4));
  const dashed = new RegExp(`^\\w+, (\\d\\d)-(\\w{3})-(\\d\\d) ${time} GMT$`).exec(text);
  if (dashed) {
    // Two digits of a year: one that would be more than 50 years ahead is in the past.
    const year = Number(dashed[3]) + 2000;
    return instant(String(year > 2076 ? year - 100 : year), dashed[2]!, dashed[1]!, dashed.slice(4));
  }
  const plain = new RegExp(`^\\w{3} (\\w{3}) ([ \\d]\\d) ${time} (\\d{4})$`).exec(text);
  return plain ? instant(plain[6]!, plain[1]!, plain[2]!, plain.slice(3, 6)) : undefined;
}

function instant(year: string, month: string, day: string, time: readonly string[]): number | undefined {
  const at = MONTHS.indexOf(month);
  if (at < 0) return undefined;
  const [hour = 0, minute = 0, second = 0] = time.map(Number);
  return Date.UTC(Number(year), at, Number(day), hour, minute, second);
}

/**
 * `Retry-After` (RFC 9110 section 10.2.3) in milliseconds: seconds, also with a fraction, or a date, which is measured
 * against the response's own `Date` where there is one. Never negative; nothing when it cannot be read.
 */
export function retryAfterMs(fieldOf: FieldOf, nowMs: number): number | undefined {
  const text = fieldOf('retry-after')?.trim();
  if (text === undefined) return undefined;
  if (/^-?\d+(\.\d+)?$/.test(text)) return boundedWaitMs(Number(text), nowMs);
  const until = httpDate(text);
  if (until === undefined) return undefined;
  return boundedWaitMs((until - (httpDate(fieldOf('date') ?? '') ?? nowMs)) / 1000, nowMs);
}

/** The longest wait that a server can ask for: a longer one is a slip, or no wait at all. */
const MAX_WAIT_MS = 31 * 24 * 60 * 60 * 1000;

/**
 * Seconds that a server names, in milliseconds from now; never negative. What is too long for a wait is taken for a time in
 * seconds or milliseconds since 1970 where that is near enough, and for nothing otherwise.
 */
function boundedWaitMs(seconds: number, nowMs: number): number | undefined {
  const wait = Math.max(0, seconds * 1000);
  const candidates = [wait, seconds * 1000 - nowMs, seconds - nowMs];
  return candidates.find((each) => each >= 0 && each <= MAX_WAIT_MS);
}

/**
 * What a server says is left: by `RateLimit` with parameters (IETF httpapi draft), by its earlier form with commas, by
 * separate `RateLimit-*` fields, or by the older `X-RateLimit-*`. The first form that is there counts.
 */
export function remainingIn(fieldOf: FieldOf, nowMs: number): readonly Remaining[] {
  const field = fieldOf('ratelimit');
  if (field !== undefined) {
    const items = listItems(field);
    const modern = items.flatMap(({ name, parameters }) =>
      remainingOf(name, parameters.get('r'), parameters.get('t'), nowMs),
    );
    if (modern.length > 0) return modern;
    const pairs = new Map(items.flatMap(({ name }) => [name.split('=') as [string, string]]));
    return remainingOf('RateLimit', pairs.get('remaining'), pairs.get('reset'), nowMs);
  }
  const separate = remainingOf('RateLimit', fieldOf('ratelimit-remaining'), fieldOf('ratelimit-reset'), nowMs);
  if (separate.length > 0) return separate;
  return remainingOf('X-RateLimit', fieldOf('x-ratelimit-remaining'), fieldOf('x-ratelimit-reset'), nowMs);
}

function remainingOf(
  name: string,
  remaining: string | undefined,
  seconds: string | undefined,
  nowMs: number,
): readonly Remaining[] {
  const number = (text: string | undefined) =>
    text !== undefined && /^\d+(\.\d+)?$/.test(text.trim()) ? Number(text) : NaN;
  const [left, reset] = [number(remaining), number(seconds)];
  const resetMs = Number.isNaN(reset) ? undefined : boundedWaitMs(reset, nowMs);
  return Number.isNaN(left) || resetMs === undefined ? [] : [{ name, remaining: left, resetMs }];
}

type Item = Readonly<{ name: string; parameters: ReadonlyMap<string, string> }>;

/** The items of a list with their parameters (RFC 9651 section 3.1), as far as these fields need it. */
function listItems(field: string): readonly Item[] {
  const parts = field.match(/(?:"(?:[^"\\]|\\.)*"|[^,"])+/g) ?? [];
  return parts.map((part) => {
    const [name = '', ...rest] = part.match(/(?:"(?:[^"\\]|\\.)*"|[^;"])+/g) ?? [];
    const parameters = rest.map((each): [string, string] => {
      const [key = '', value = ''] = each.trim().split('=');
      return [key, value];
    });
    return { name: name.trim().replace(/^"(.*)"$/, '$1'), parameters: new Map(parameters) };
  });
}
