import { chainOf, coreRun } from '../support/engine.ts';
import { keptOf } from '../support/kept.ts';

test('a length of time that has passed is not waited for again', async () => {
  const chain = chainOf('- wait: 90s\n- call: a\n  request: GET /a\n- wait: 30s\n- say: done');
  const broken = await coreRun(chain, { answers: [{ status: 500 }] });
  expect([broken.exit, broken.waited]).toEqual([1, 90_000]);
  const rest = await coreRun(chain, { answers: [{ body: '{}' }], recorded: keptOf(broken.events, 'go-on') });
  expect([rest.exit, rest.waited]).toEqual([0, 30_000]);
});

test('a change that was sent and not answered is not sent again by itself, whoever asked for the run', async () => {
  const chain = chainOf('- call: a\n  request: POST /a');
  const whole = await coreRun(chain, { answers: [{ body: '{}' }] });
  const sentOnly = whole.events.filter(({ type }) => !['answered', 'ended', 'finished'].includes(type));
  const rest = await coreRun(chain, { answers: [{ body: '{}' }], recorded: keptOf(sentOnly, 'go-on') });
  expect([rest.exit, rest.sent, rest.codes]).toEqual([3, [], expect.arrayContaining(['in-doubt'])]);
});
