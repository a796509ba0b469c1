import fc from 'fast-check';
import type { JournalEvent } from '../../src/core/journal/events.ts';
import { heldJournal } from '../../src/core/journal/journal.ts';
import { exchangesBack, exchangesOf, findExchange, triesOf } from '../../src/core/report/exchange.ts';

/** The events of a run of so many calls, of which several are under way at the same time; `choices` say what comes next. */
function eventsOf(choices: readonly number[]): readonly JournalEvent[] {
  const events: object[] = [];
  const open: number[] = [];
  let x = 0;
  for (const choice of choices) {
    const at = events.length;
    const one = open[choice % Math.max(1, open.length)];
    if (choice < 4 || one === undefined) {
      open.push(++x);
      events.push({ type: 'sent', x, at, step: `2#${x % 5}.1/call-${x % 3}`, purpose: 'call', hop: 0 });
      continue;
    }
    open.splice(open.indexOf(one), 1);
    if (choice < 8) events.push({ type: 'answered', x: one, at, status: 200, headers: [] });
    if (choice === 8) events.push({ type: 'broken', x: one, at });
    if (choice > 5) events.push({ type: 'ended', kind: 'call', x: [one], at, ms: 1 });
  }
  return events as JournalEvent[];
}

test('exchanges are the same from the end as from the beginning', () => {
  fc.assert(
    fc.property(fc.array(fc.nat(9), { maxLength: 60 }), (choices) => {
      const events = eventsOf(choices);
      const all = exchangesOf(events);
      expect([...exchangesBack(heldJournal(events))]).toEqual([...all].reverse());
    }),
  );
});

const sent = (x: number, step: string, at: number, more: object = {}) => ({
  type: 'sent',
  x,
  step,
  key: step,
  at,
  purpose: 'call',
  ...more,
});
const ended = (step: string, x: readonly number[], at: number, ms: number) => ({
  type: 'ended',
  kind: 'call',
  step,
  x,
  at,
  ms,
});
const events = [
  sent(1, '1#1.1/ask', 1000),
  ended('1#1.1/ask', [1], 1010, 10),
  // Gone on with: the same call again, now with a credential, twice.
  sent(2, '1#1.1/ask', 9000, { purpose: 'token' }),
  sent(3, '1#1.1/ask', 9010),
  sent(4, '1#2.1/ask', 9015),
  sent(5, '1#1.1/ask', 9020),
  ended('1#1.1/ask', [3, 5], 9030, 31),
] as unknown as JournalEvent[];

test.each<[string | undefined, string | undefined, number | undefined]>([
  [undefined, undefined, 5],
  ['ask', undefined, 5],
  ['1#2.1', undefined, 4],
  ['1#2.1/ask', undefined, 4],
  [undefined, '2', 4],
  ['ask', '1', 5],
  ['tell', undefined, undefined],
  ['ask', '3', undefined],
])('the exchange of %s for item %s is %s', (wanted, item, x) => {
  expect(findExchange(exchangesBack(heldJournal(events)), wanted, item)?.sent.x).toBe(x);
});

test('the tries of a call are all that were made for it in the run, its credential with them', () => {
  const journal = heldJournal(events);
  const [last] = exchangesBack(journal);
  expect(triesOf(last!, journal).map((each) => each.sent.x)).toEqual([1, 2, 3, 5]);
});
