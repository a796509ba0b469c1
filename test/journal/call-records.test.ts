import { CallRecords } from '../../src/core/journal/call-records.ts';
import type { JournalEvent } from '../../src/core/journal/events.ts';
import { heldJournal } from '../../src/core/journal/journal.ts';

const request = { method: 'GET', url: 'http://127.0.0.1/', headers: [] };
const sent = (x: number, key: string, purpose = 'call') => ({
  type: 'sent',
  x,
  key,
  step: `at ${key}`,
  purpose,
  request,
});
const answered = (x: number) => ({ type: 'answered', x, status: 200, headers: [] });
const ended = (key: string, outcome: string, x: readonly number[], more: object = {}) => ({
  type: 'ended',
  kind: 'call',
  key,
  step: `at ${key}`,
  outcome,
  x,
  ...more,
});

const recordsOf = (events: readonly object[]) =>
  new CallRecords('0523-1412-7k', heldJournal(events as readonly JournalEvent[]), {
    body: () => undefined,
    list: () => undefined,
  });

test('a call is what it last ended as, with its last exchanges, and what was first sent for it', () => {
  const records = recordsOf([
    sent(1, 'a'),
    answered(1),
    ended('a', 'failed', [1]),
    { type: 'resumed' },
    sent(2, 'token', 'token'),
    sent(3, 'a'),
    answered(3),
    ended('a', 'passed', [3]),
  ]);
  expect(records.call('a')).toMatchObject({
    ended: { outcome: 'passed' },
    first: { x: 3 },
    exchanges: [{ sent: { x: 3 }, answered: { x: 3 } }],
  });
  expect([records.call('token'), records.unanswered('a'), records.last]).toEqual([undefined, undefined, 3]);
  expect([...records.all()].map(({ plainKey, end, address }) => [plainKey, end.outcome, address()])).toEqual([
    ['a', 'passed', 'at a'],
  ]);
});

test('a request without an answer stays open, also when its call was cut', () => {
  const records = recordsOf([sent(1, 'a'), ended('a', 'cut', [1]), sent(2, 'b'), answered(2), sent(3, 'b')]);
  expect([records.unanswered('a')?.x, records.unanswered('b')?.x]).toEqual([1, 3]);
});

test('what was taken back since is not done, until it is done again', () => {
  const done = [sent(1, 'a'), answered(1), ended('a', 'passed', [1])];
  const undone = { type: 'undone', key: 'a', outcome: 'passed' };
  expect(recordsOf([...done, undone]).call('a')).toBeUndefined();
  expect([...recordsOf([...done, undone]).all()]).toEqual([]);
  expect(recordsOf([...done, { ...undone, outcome: 'failed' }]).call('a')).toBeDefined();
  expect(recordsOf([...done, undone, ...done]).call('a')).toBeDefined();
});

test('failures are known by the items around them, the last end of each', () => {
  const key = (item: number) => `each:vessel{${item}}/each:berth{1}/ask`;
  const records = recordsOf([ended(key(1), 'failed', []), ended(key(2), 'failed', []), ended(key(2), 'passed', [])]);
  const failed = (prefix: string) => records.failedIn(prefix).map((each) => each.key);
  expect(failed('each:vessel{1}/')).toEqual([key(1)]);
  expect(failed('each:vessel{1}/each:berth{1}/')).toEqual([key(1)]);
  expect([failed('each:vessel{2}/'), failed('each:vessel{3}/')]).toEqual([[], []]);
});

test('ends that mean the same are one', () => {
  const records = recordsOf([
    { type: 'opened', kind: 'each', key: 'each:vessel', total: 7 },
    ...[1, 2, 3].map((i) => ended(`each:vessel{${i}}/ask`, 'passed', [i], { assertionFingerprint: 'p' })),
    ended('each:vessel{4}/ask', 'failed', [4], { assertionFingerprint: 'p', item: { number: 4, id: '4' } }),
  ]);
  const ends = [...records.all()].map(({ end }) => end);
  expect(new Set(ends).size).toBe(2);
  expect(ends.at(-1)).toMatchObject({ outcome: 'failed', assertionFingerprint: 'p', isSent: true, isOfItem: true });
  expect([...records.totals]).toEqual([['each:vessel', 7]]);
});
