import fc from 'fast-check';
import { chainOf, coreRun } from '../support/engine.ts';
import { rateLimitOf, periodAt, readRateLimit, readResets, sharedRateLimit } from '../../src/core/pacing/rate-limit.ts';
import { decideRetry, DEFAULT_RETRY, type Retrying, type Tried } from '../../src/core/pacing/retry.ts';
import { httpDate, remainingIn, retryAfterMs } from '../../src/core/pacing/server-signals.ts';

const NOW = Date.parse('2026-05-23T10:00:00Z');
const fields = (headers: Readonly<Record<string, string>>) => (name: string) => headers[name];

test.each([['Sun, 06 Nov 1994 08:49:37 GMT'], ['Sunday, 06-Nov-94 08:49:37 GMT'], ['Sun Nov  6 08:49:37 1994']])(
  'HTTP-date %s (RFC 9110 section 5.6.7)',
  (text) => {
    expect(httpDate(text)).toBe(Date.parse('1994-11-06T08:49:37Z'));
  },
);

test.each([
  [{ 'retry-after': '120' }, 120_000],
  [{ 'retry-after': '0.5' }, 500],
  [{ 'retry-after': '-3' }, 0],
  [{ 'retry-after': 'Sat, 23 May 2026 10:00:30 GMT' }, 30_000],
  [{ 'retry-after': 'Sat, 23 May 2026 10:00:30 GMT', date: 'Sat, 23 May 2026 10:00:20 GMT' }, 10_000],
  [{ 'retry-after': 'Sat, 23 May 2026 09:00:00 GMT' }, 0],
  [{ 'retry-after': 'soon' }, undefined],
  [{}, undefined],
])('Retry-After %j', (headers, expected) => {
  expect(retryAfterMs(fields(headers), NOW)).toBe(expected);
});

test.each([
  [{ ratelimit: '"default";r=50;t=30' }, [['default', 50, 30_000]]],
  [
    { ratelimit: '"burst";r=3;t=1;pk=:abc:, "day, all";r=900;t=3600' },
    [
      ['burst', 3, 1000],
      ['day, all', 900, 3_600_000],
    ],
  ],
  [{ ratelimit: 'limit=100, remaining=7, reset=9' }, [['RateLimit', 7, 9000]]],
  [{ 'ratelimit-limit': '100', 'ratelimit-remaining': '4', 'ratelimit-reset': '12' }, [['RateLimit', 4, 12_000]]],
  [{ 'x-ratelimit-remaining': '2', 'x-ratelimit-reset': String(NOW / 1000 + 60) }, [['X-RateLimit', 2, 60_000]]],
  [{ 'x-ratelimit-remaining': '2', 'x-ratelimit-reset': String(NOW + 5000) }, [['X-RateLimit', 2, 5000]]],
  [{ 'x-ratelimit-remaining': '2', 'x-ratelimit-reset': '30' }, [['X-RateLimit', 2, 30_000]]],
  [{ ratelimit: '"default";r=1;t=1', 'x-ratelimit-remaining': '99', 'x-ratelimit-reset': '1' }, [['default', 1, 1000]]],
  [{ 'ratelimit-remaining': 'many', 'ratelimit-reset': '12' }, []],
  [{}, []],
])('what is left by %j', (headers, expected) => {
  const found = remainingIn(fields(headers), NOW);
  expect(found.map(({ name, remaining, resetMs }) => [name, remaining, Math.round(resetMs)])).toEqual(expected);
});

test.each([
  ['8/s', { count: 8, milliseconds: 1000, text: '8/s' }],
  ['100 / min', { count: 100, milliseconds: 60_000, text: '100/min' }],
  ['1000/day', { count: 1000, period: 'day', text: '1000/day' }],
  ['0/s', undefined],
  ['8/week', undefined],
  ['8', undefined],
])('rate limit %s', (text, expected) => expect(readRateLimit(text)).toEqual(expected));

test('a part of a rate-limit: counts rounded down, a longer window where less than one would be left', () => {
  const rateLimit = rateLimitOf([readRateLimit('8/s')!, readRateLimit('2/min')!, readRateLimit('1000/day')!]);
  const { windows, quotas } = sharedRateLimit(rateLimit, { part: 1, of: 3 });
  expect(windows.map(({ count, milliseconds }) => [count, milliseconds])).toEqual([
    [2, 1000],
    [1, 90_000],
  ]);
  expect(quotas[0]!.count).toBe(333);
});

test.each([
  ['day', '00:00 UTC', '2026-05-23T10:00:00Z', '2026-05-23T00:00:00Z', '2026-05-24T00:00:00Z'],
  ['day', '12:00 UTC', '2026-05-23T10:00:00Z', '2026-05-22T12:00:00Z', '2026-05-23T12:00:00Z'],
  ['day', '00:00 Europe/Lisbon', '2026-05-23T10:00:00Z', '2026-05-22T23:00:00Z', '2026-05-23T23:00:00Z'],
  ['month', '00:00 UTC', '2026-02-14T10:00:00Z', '2026-02-01T00:00:00Z', '2026-03-01T00:00:00Z'],
] as const)('the %s that resets at %s, at %s', (period, resets, now, from, until) => {
  const found = periodAt(Date.parse(now), period, readResets(resets)!);
  expect([found.from, found.until]).toEqual([Date.parse(from), Date.parse(until)]);
});

describe('retry', () => {
  const tried = (outcome: Tried['outcome'], more: Partial<Tried> = {}): Tried => ({
    outcome,
    reached: 'maybe',
    retryAfterMs: undefined,
    ...more,
  });
  const retrying = (more: Partial<Retrying> = {}): Retrying => ({
    retry: DEFAULT_RETRY,
    isRepeatable: true,
    tries: 1,
    waitedMs: 0,
    maxWaitMs: 60_000,
    random: 0.5,
    ...more,
  });
  const none = { retry: undefined };
  test.each([
    ['a 503 is tried again, half of the first bound later', tried(503), {}, { again: 250, why: '503' }],
    ['the bound doubles', tried(503), { tries: 2 }, { again: 500, why: '503' }],
    ['up to the longest', tried('timeout'), { retry: { ...DEFAULT_RETRY, tries: 99 }, tries: 40 }, { again: 5000 }],
    ['never earlier than the server says', tried(503, { retryAfterMs: 7000 }), {}, { again: 7000 }],
    ['no tries are left', tried(503), { tries: 3 }, { not: 'tries-left' }],
    ['404 is no reason', tried(404), {}, { not: 'meant' }],
    ['500 is none unless said', tried(500), {}, { not: 'meant' }],
    ['a class of statuses', tried(500), { retry: { ...DEFAULT_RETRY, on: ['5xx'] } }, { again: 250 }],
    ['what may have arrived and is not repeatable', tried(503), { isRepeatable: false }, { not: 'repeatable' }],
    ['what never left', tried('connection', { reached: 'no' }), { isRepeatable: false }, { again: 250 }],
    ['429 means not done', tried(429), { isRepeatable: false }, { again: 250 }],
    ['without a retry nothing', tried(503), none, { not: 'meant' }],
    ['but what the server asks for', tried(503, { retryAfterMs: 900 }), none, { again: 900 }],
    ['not a POST after 503', tried(503, { retryAfterMs: 900 }), { ...none, isRepeatable: false }, { not: 'meant' }],
    ['a POST after 429', tried(429, { retryAfterMs: 900 }), { ...none, isRepeatable: false }, { again: 900 }],
    ['not for too long', tried(429, { retryAfterMs: 61_000 }), none, { not: 'so-long' }],
    ['waits are added up', tried(429, { retryAfterMs: 30_000 }), { ...none, waitedMs: 40_000 }, { not: 'so-long' }],
  ])('%s', (_name, how, more, expected) => {
    expect(decideRetry(how, retrying(more as Partial<Retrying>))).toMatchObject(expected);
  });
});

const DAY_MS = 24 * 60 * 60 * 1000;

test.each([
  ['2678400', 31 * DAY_MS],
  ['2678401', undefined],
  ['99999999999999999999999', undefined],
  [String(NOW / 1000 + 90), 90_000],
  [String(NOW + 90_000), 90_000],
  ['Fri, 31 Dec 9999 23:59:59 GMT', undefined],
  ['-99999999999999999999', 0],
  ['00000000000000000000000000000001', 1000],
])('a Retry-After of %s has bounds', (text, expected) => {
  const found = retryAfterMs(fields({ 'retry-after': text }), NOW);
  expect(found === undefined ? undefined : Math.round(found)).toBe(expected);
});

test('whatever a server says, no wait is negative, endless or no number', () => {
  const field = fc.oneof(fc.string({ maxLength: 12 }), fc.bigInt().map(String), fc.double().map(String));
  const names = ['retry-after', 'ratelimit', 'ratelimit-remaining', 'ratelimit-reset', 'x-ratelimit-remaining', 'date'];
  fc.assert(
    fc.property(fc.dictionary(fc.constantFrom(...names, 'x-ratelimit-reset'), field), (headers) => {
      const waits = [
        retryAfterMs(fields(headers), NOW),
        ...remainingIn(fields(headers), NOW).map((each) => each.resetMs),
      ];
      for (const wait of waits) expect(wait === undefined || (wait >= 0 && wait <= 31 * DAY_MS)).toBe(true);
    }),
    { numRuns: 2000 },
  );
});

test.each(['0', '-5', 'Sat, 23 May 2026 09:00:00 GMT'])(
  'a server that says Retry-After: %s again and again is asked five times, ever more slowly',
  async (value) => {
    const answers = [{ status: 429, headers: [['Retry-After', value]] as [string, string][] }];
    const { sent, waited, exit } = await coreRun(chainOf('- call: a\n  request: GET /x'), { answers });
    expect([sent.length, exit]).toEqual([5, 1]);
    expect(waited).toBeGreaterThanOrEqual(200 + 400 + 800 + 1600);
  },
);
