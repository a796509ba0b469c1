import { sourceOf } from '../../src/core/report/run-source.ts';
import { heldJournal } from '../../src/core/journal/journal.ts';
import { findExchange, exchangesBack } from '../../src/core/report/exchange.ts';
import { stableName } from '../../src/core/report/call-summary.ts';
import { summarizeRun } from '../../src/core/report/run-summary.ts';
import { chainOf, coreRun } from '../support/engine.ts';

async function namesOf(list: string, more = '', inner = '') {
  const { events } = await coreRun(
    chainOf(`- let: { list: ${JSON.stringify(list)} }
- each: v in list
  on-failure: continue
${more}  steps:
    - call: one
      request: GET /one
      expect: [loop.number != 2]
${inner}`),
    { answers: [{ body: '{}' }] },
  );
  const summary = summarizeRun(sourceOf({ id: 'r', journal: heldJournal(events), body: () => undefined }));
  return [...summary.calls].map((call) => stableName(call));
}

const ITEMS = 'parse_json(\'[{"id": "N1", "q": 1}, {"id": 7, "q": 1}, {"key": "k", "q": 2}, {"q": 3}]\')';

// The second item fails, the others pass, and each is called in the same way.
test.each([
  ['by a member that tells', ITEMS, '', ['one [N1]', 'one [7]', 'one [k]', 'one [4]']],
  ['by what identifies it', "['a', 'b']", '  identified-by: v\n', ['one [a]', 'one [b]']],
  ['by number', 'range(3)', '', ['one [1]', 'one [2]', 'one [3]']],
  ['by label and number', 'parse_json(\'[{"id": 1}, {"id": 1}]\')', '', ['one [1 (1)]', 'one [1 (2)]']],
])('an item is called %s, whether it passed or failed', async (_how, list, more, expected) => {
  expect(await namesOf(list, more)).toEqual(expected);
  expect(await namesOf(list, more, '    - say: more\n')).toEqual(expected);
});

test('items in items are called by all of their names', async () => {
  const { events } = await coreRun(
    chainOf(`- each: a in ['x', 'y']
  identified-by: a
  steps:
    - say: "{a}"
    - each: b in range(2)
      steps:
        - call: one
          request: GET /one/{b}`),
    { answers: [{ body: '{}' }] },
  );
  const { calls } = summarizeRun(sourceOf({ id: 'r', journal: heldJournal(events), body: () => undefined }));
  expect([...calls].map(stableName)).toEqual(['one [x / 1]', 'one [x / 2]', 'one [y / 1]', 'one [y / 2]']);
});

test('what took a call back is told apart from the call', async () => {
  const { events } = await coreRun(chainOf('- call: make\n  request: POST /make\n  undo: DELETE /make/1'), {
    answers: [{ body: '{}' }],
  });
  const journal = heldJournal(events);
  const { calls } = summarizeRun(sourceOf({ id: 'r', journal, body: () => undefined }));
  expect([...calls].map(stableName)).toEqual(['make', 'make (undo)']);
  expect(findExchange(exchangesBack(journal), 'make')!.sent.request.method).toBe('POST');
  expect(findExchange(exchangesBack(journal), 'u1')!.sent.request.method).toBe('DELETE');
});
