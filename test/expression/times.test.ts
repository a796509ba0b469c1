import { parseExpression } from '../../src/core/expression/parse.ts';
import { evaluated } from '../support/expressions.ts';

/** The test host is in Europe/Lisbon, where summer time began on 2026-03-29 at 01:00 and ends on 2026-10-25 at 02:00. */
describe('instants', () => {
  test.each([
    ["string(date_time('2026-01-10'))", '2026-01-10T00:00:00Z'],
    ["string(date_time('2026-07-10'))", '2026-07-09T23:00:00Z'],
    ["string(date_time('2026-07-10', 'UTC'))", '2026-07-10T00:00:00Z'],
    ["string(date_time('2026-07-10T12:30'))", '2026-07-10T11:30:00Z'],
    ["string(date_time('2026-07-10 12:30:15.250Z'))", '2026-07-10T12:30:15.250Z'],
    ["string(date_time('2026-03-29T01:30'))", '2026-03-29T01:30:00Z'],
    ["string(date_time('2026-10-25T01:30'))", '2026-10-25T00:30:00Z'],
    ["string(date_time('2026-07-10') + 36h)", '2026-07-11T11:00:00Z'],
    ["(date_time('2026-07-10') - date_time('2026-07-09')) / 1h", 24],
    ['epoch(from_epoch(1779530400.5))', 1779530400.5],
    ["today('Pacific/Auckland')", '2026-05-23'],
    ["today('Pacific/Kiritimati')", '2026-05-24'],
    ["string(start_of(date_time('2026-07-10T12:34:56Z'), 'hour'))", '2026-07-10T12:00:00Z'],
    ["string(start_of(date_time('2026-07-10T12:34:56Z'), 'day'))", '2026-07-09T23:00:00Z'],
    ["string(start_of(date_time('2026-07-12'), 'week', 'UTC'))", '2026-07-06T00:00:00Z'],
    ["string(start_of(date_time('2026-07-12'), 'year', 'UTC'))", '2026-01-01T00:00:00Z'],
  ])('%s', (text, value) => expect(evaluated(text)).toEqual({ value }));

  test.each(["date_time('2026-02-30')", "date_time('noon')", "date_time('2026-05-23T25:00:00Z')", 'from_epoch(1e20)'])(
    '%s is an error',
    (text) => expect(evaluated(text).problem?.code).toBe('wrong-argument'),
  );

  test.each([
    ["today('Europe/Lisbn')", 'unknown-zone'],
    ["start_of(now(), 'fortnight')", 'wrong-argument'],
    ["formatted(now(), 'yyyy-JJ')", 'wrong-argument'],
  ])('%s is told before it runs', (text, code) =>
    expect(parseExpression(text).problems.map((each) => each.code)).toEqual([code]),
  );
});

describe('patterns of UTS #35', () => {
  const at = "date_time('2026-07-05T08:03:09.047Z')";
  test.each([
    ['yyyy-MM-dd', '2026-07-05'],
    ['yy-M-d', '26-7-5'],
    ['HH:mm:ss.SSS', '09:03:09.047'],
    ['h:m:s a', '9:3:9 AM'],
    ['EEE EEEE', 'Sun Sunday'],
    ['MMM MMMM', 'Jul July'],
    ['D DDD', '186 186'],
    ["'day' d 'o''clock'", "day 5 o'clock"],
    ['X XX XXX x', '+01 +0100 +01:00 +01'],
    ['VV', 'Europe/Lisbon'],
    ['w', '27'],
    ['Q', '3'],
    ['S', '0'],
  ])('%s', (pattern, value) =>
    expect(evaluated(`formatted(${at}, "${pattern.replaceAll('"', '\\"')}")`)).toEqual({ value }),
  );
});

describe('durations', () => {
  test.each([
    ["duration('1.5s') == 1500ms", true],
    ["duration('P1DT2H') == 26h", true],
    ["duration('P2W') == 14d", true],
    ["duration('PT0.5S') == 500ms", true],
    ['duration(3s) == 3s', true],
  ])('%s', (text, value) => expect(evaluated(text)).toEqual({ value }));
  test.each(["duration('P1M')", "duration('P1Y')", "duration('soon')", "duration('5')", "duration('P')"])(
    '%s is an error',
    (text) => expect(evaluated(text).problem?.code).toBe('wrong-argument'),
  );
});
