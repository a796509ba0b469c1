import type { JournalEvent } from '../../src/core/journal/events.ts';
import { heldJournal } from '../../src/core/journal/journal.ts';
import { sourceOf } from '../../src/core/report/run-source.ts';
import { summarizeRun } from '../../src/core/report/run-summary.ts';

const sent = (x: number, step: string, purpose = 'call') => ({
  type: 'sent',
  x,
  step,
  key: step,
  purpose,
  request: { method: 'GET', url: `http://127.0.0.1/${x}`, headers: [] },
});
const answered = (x: number, status = 200) => ({ type: 'answered', x, status, headers: [], timings: { wait: 1 } });
const ended = (step: string, x: readonly number[], outcome = 'passed') => ({
  type: 'ended',
  step,
  key: step,
  kind: 'call',
  name: step.slice(step.indexOf('/') + 1),
  outcome,
  x,
  ms: 1,
  ...(outcome === 'failed' ? { problem: { code: 'expectation-false', message: 'no' } } : {}),
});

function told(events: readonly object[]) {
  const numbered = events.map((event, i) => ({ seq: i + 1, at: 1000 + i, ...event })) as unknown as JournalEvent[];
  const summary = summarizeRun(sourceOf({ id: 'r', journal: heldJournal(numbered), body: () => undefined }));
  const calls = [...summary.calls];
  expect([...summary.calls]).toEqual(calls);
  expect(summary.calls.length).toBe(calls.length);
  expect(summary.calls.failures).toEqual(calls.filter(({ failure }) => failure));
  return {
    summary,
    calls: calls.map(({ name, outcome, exchanges, earlier }) => [name, outcome, exchanges, earlier].map(briefly)),
  };
}

const briefly = (told: unknown) => (Array.isArray(told) ? told.map(({ x }) => x as number).join() : told);

test('calls are told in the order in which they began, however they ended', () => {
  const { calls } = told([
    sent(1, '1/slow'),
    sent(2, '2/quick'),
    answered(2),
    ended('2/quick', [2], 'failed'),
    sent(3, '3/late'),
    answered(1),
    ended('1/slow', [1], 'failed'),
    ended('4/skipped', [], 'skipped'),
    answered(3),
    ended('3/late', [3]),
  ]);
  expect(calls.map(([name]) => name)).toEqual(['slow', 'quick', 'late', 'skipped']);
});

test('a call that was done again when the run went on is told once, as it ended last', () => {
  const { calls, summary } = told([
    sent(1, '1/once'),
    answered(1),
    ended('1/once', [1]),
    sent(2, '2/again'),
    answered(2, 500),
    ended('2/again', [2], 'failed'),
    sent(3, '3/cut'),
    { type: 'resumed', files: [], options: {} },
    ended('1/once', [1], 'reused'),
    sent(4, '2/again'),
    answered(4),
    ended('2/again', [4]),
    { type: 'resumed', files: [], options: {} },
    ended('2/again', [4], 'reused'),
    sent(5, '3/cut'),
    answered(5),
    ended('3/cut', [5]),
  ]);
  expect(calls).toEqual([
    ['once', 'reused', '1', ''],
    ['again', 'reused', '4', '2'],
    ['cut', 'passed', '5', ''],
  ]);
  expect([...summary.exchanges].map(({ sent: { x }, answered: { status } = { status: 0 } }) => [x, status])).toEqual([
    [1, 200],
    [2, 500],
    [3, 0],
    [4, 200],
    [5, 200],
  ]);
});
