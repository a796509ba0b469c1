import type { Recorded } from '../../src/core/engine/recorded.ts';
import { chainOf, coreRun, type CoreRun } from '../support/engine.ts';
import { keptOf } from '../support/kept.ts';

const LOOP = `- let: { from: 1 }
- each: n in range(6)
  on-failure: continue
  steps:
    - call: make
      request: POST /make/{n}
      json: { from: "{from}" }
      keep: { id: $.id }
      expect: [$.id > 0]
    - call: read
      request: GET /read/{id}
`;

const answerTo = () => ({ body: '{"id": 7}' });

async function resumed(chain: string, from: CoreRun, now = chain, more: Partial<Recorded> = {}): Promise<CoreRun> {
  return coreRun(chainOf(now), { answerTo, recorded: { ...keptOf(from.events, 'go-on'), ...more } });
}

const itemsKept = ({ events }: CoreRun) =>
  events.reduce((sum, event) => sum + (event.type === 'kept' ? event.items : 0), 0);
const totalsOf = ({ events }: CoreRun) => {
  const last = events.at(-1);
  return last?.type === 'finished' ? last.totals : undefined;
};

test('items that were done whole are taken by the record, behind the first, and count as they did', async () => {
  const broken = await coreRun(chainOf(LOOP), { answerTo, stopAfter: 9 });
  const rest = await resumed(LOOP, broken);
  expect([rest.exit, itemsKept(rest), rest.sent.length]).toEqual([0, 3, 3]);
  const whole = await coreRun(chainOf(LOOP), { answerTo });
  expect(totalsOf(rest)).toMatchObject({
    calls: 12,
    expects: totalsOf(whole)!.expects,
    passed: totalsOf(whole)!.passed,
  });
  const again = await resumed(LOOP, { ...broken, events: [...broken.events, ...rest.events] });
  expect([again.exit, itemsKept(again), again.sent]).toEqual([0, 5, []]);
});

const passedOf = (whole: CoreRun, more: (event: CoreRun['events'][number]) => object = () => ({})) => ({
  ...whole,
  events: whole.events.map((event) => ({ ...event, ...more(event) })),
});

test.each<[string, (whole: CoreRun) => Promise<CoreRun>]>([
  ['files have changed', (whole) => resumed(LOOP, whole, LOOP, { isUnchanged: false })],
  ['what they judge has changed', (whole) => resumed(LOOP, whole, LOOP.replace('id > 0', 'id > 1'))],
  ['something is gathered of them', (whole) => resumed(LOOP, whole, `${LOOP}  gather: { ids: "{id}" }\n`)],
  [
    'their responses set cookies, which no record holds',
    (whole) =>
      resumed(
        LOOP,
        passedOf(whole, ({ type }) => (type === 'answered' ? { setCookies: ['berth'] } : {})),
      ),
  ],
  [
    'a value of theirs is in no record',
    (whole) =>
      resumed(
        LOOP,
        passedOf(whole, (event) =>
          event.type === 'ended' && event.binds
            ? { binds: event.binds.map((bind) => ({ ...bind, masked: true })) }
            : {},
        ),
      ),
  ],
  [
    'lines of the record are lost',
    (whole) => resumed(LOOP, { ...whole, events: whole.events.filter(({ seq }) => seq !== 3) }),
  ],
])('items are gone over where %s', async (_why, go) => {
  const whole = await coreRun(chainOf(LOOP), { answerTo });
  expect(whole.exit).toBe(0);
  expect(itemsKept(await go(whole))).toBe(0);
});

test('items are gone over where a call before the loop is sent anew', async () => {
  const chain = `- call: from\n  request: GET /from\n  keep: { start: $.id }\n${LOOP.replace('from: 1', 'from: start')}`;
  const whole = await coreRun(chainOf(chain), { answerTo });
  const rest = await resumed(chain, whole, chain.replace('GET /from', 'GET /start'));
  expect([itemsKept(rest), rest.sent.length]).toEqual([0, 7]);
});

test('an item of which one call failed is gone over, and those about it are not', async () => {
  const failing = await coreRun(chainOf(LOOP), {
    answerTo: ({ url }) => ({ body: url.includes('/make/3') ? '{"id": 0}' : '{"id": 7}' }),
  });
  const rest = await resumed(LOOP, failing);
  expect([itemsKept(rest), failing.exit, rest.exit]).toEqual([4, 1, 1]);
});
