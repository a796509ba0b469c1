import type { CallStep } from '../../src/core/chain/model.ts';
import { freshForOf } from '../../src/core/engine/fresh-for.ts';
import type { Endpoint } from '../../src/core/http/endpoint.ts';
import { readResets } from '../../src/core/pacing/rate-limit.ts';

const HOUR = 3_600_000;

test.each([
  ['a duration is itself', 90_000, undefined, '2026-05-23T12:00:00Z', 90_000],
  ['no key, no record', undefined, undefined, '2026-05-23T12:00:00Z', undefined],
  ['today, of an API that says nothing: since midnight in UTC', 'today', undefined, '2026-05-23T07:30:00Z', 7.5 * HOUR],
  ['since the hour at which its day begins', 'today', '04:00 Europe/Oslo', '2026-05-23T07:30:00Z', 5.5 * HOUR],
  ['before that hour, since it on the day before', 'today', '04:00 Europe/Oslo', '2026-05-23T01:00:00Z', 23 * HOUR],
] as const)('%s', (_name, freshFor, resets, now, wanted) => {
  const endpoint = resets === undefined ? undefined : ({ resets: readResets(resets) } as Endpoint);
  expect(freshForOf({ freshFor } as CallStep, endpoint, Date.parse(now))).toBe(wanted);
});
