import fc from 'fast-check';
import type { HttpRequest } from '../../src/core/http/message.ts';
import type { EventOf } from '../../src/core/journal/events.ts';
import { coreRun, type Answer, type CoreRun } from '../support/engine.ts';
import { keptOf } from '../support/kept.ts';
import { randomChain } from '../support/random-chain.ts';

/** Chains that are tried; `npm run soak` tries very many. */
const CHAINS = Math.min(20_000, Number(process.env['SOAK'] ?? 60));

/** The same request is always answered the same; those to /bad fail. */
function answerTo({ url }: HttpRequest): Answer {
  const sum = [...url].reduce((so, sign) => (so * 31 + sign.charCodeAt(0)) % 1000, 7);
  const page = url.includes('page=2') ? {} : { next: `${url.split('?')[0]}?page=2` };
  const body = { id: sum, level: 142, flag: sum % 2 ? 'NO' : 'DK', list: [sum, url.length], ...page };
  return { status: url.includes('/bad') ? 500 : 200, body: JSON.stringify(body) };
}

const outcomeOf = ({ exit, outputs }: CoreRun) => ({ exit, outputs });

/** Requests that change something, those of undos and of the cleanup aside: these are done at each end. */
const changesOf = ({ events }: CoreRun) =>
  events.flatMap((event) => (event.type === 'sent' && event.changing && isOfSteps(event) ? [event.key] : []));

/** The idempotency keys that went out. */
const keysOf = ({ sent }: CoreRun) =>
  sent.flatMap(({ headers }) => headers.flatMap(([name, value]) => (name === 'Idempotency-Key' ? [value] : []))).sort();

const heldIn = ({ events }: CoreRun) =>
  new Set(events.flatMap((event) => (event.type === 'ended' && event.outcome === 'passed' ? [event.key] : [])));

function totalsOf({ events }: CoreRun) {
  const last = events.at(-1);
  if (last?.type !== 'finished' && last?.type !== 'paused') return undefined;
  const { calls, failed, exchanges, expects, passed, notes } = last.totals;
  return { calls, failed, exchanges, expects, passed, notes };
}

function isOfSteps({ purpose, step }: EventOf<'sent'>): boolean {
  return purpose !== 'undo' && !/(^|\.)c\d/.test(step);
}

/** Every chain of some seeds that passes its checks. */
function forEachChain(check: (text: string, whole: CoreRun, seed: number) => Promise<void>): Promise<void> {
  return fc.assert(
    fc.asyncProperty(fc.integer({ min: 1, max: 2 ** 31 }), async (seed) => {
      const text = randomChain(seed);
      const whole = await coreRun(text, { answerTo }).catch((error: Error) => error);
      if (whole instanceof Error) {
        // A name that only one arm keeps is read too early somewhere; all else is a mistake of these tests.
        if (/used-too-early|kept-in-loop|unknown-name|bare-word/.test(whole.message)) return;
        throw whole;
      }
      await check(text, whole, seed);
    }),
    { numRuns: CHAINS },
  );
}

test('a rehearsal of any chain ends as the run did, and sends nothing', async () => {
  await forEachChain(async (text, whole) => {
    const offline = await coreRun(text, { answerTo, recorded: keptOf(whole.events, 'rehearse') });
    expect(outcomeOf(offline)).toEqual(outcomeOf(whole));
    expect(offline.sent).toEqual([]);
  });
});

test('any chain that is interrupted anywhere and gone on with ends as an unbroken run, and changes nothing twice', async () => {
  await forEachChain(async (text, whole, seed) => {
    if (whole.sent.length === 0) return;
    const stopAfter = 1 + (seed % whole.sent.length);
    const broken = await coreRun(text, { answerTo, stopAfter });
    // It had nothing more to send, or was tidying up already: what was taken back is done anew then.
    if (broken.exit !== 130 || !broken.events.every((event) => event.type !== 'sent' || isOfSteps(event))) return;
    const rest = await coreRun(text, { answerTo, recorded: keptOf(broken.events, 'go-on') });
    expect(outcomeOf(rest)).toEqual(outcomeOf(whole));
    const passed = heldIn(broken);
    expect(changesOf(rest).filter((key) => passed.has(key))).toEqual([]);
    // Items that are taken whole add up to what they do when they are gone over.
    const recorded = { ...keptOf(broken.events, 'go-on'), isUnchanged: false };
    const goneOver = await coreRun(text, { answerTo, recorded });
    expect([outcomeOf(goneOver), keysOf(goneOver)]).toEqual([outcomeOf(rest), keysOf(rest)]);
    expect(totalsOf(goneOver)).toEqual(totalsOf(rest));
  });
});

test('how many items are under way at the same time changes nothing of what comes out', async () => {
  await forEachChain(async (text, whole) => {
    const inOrder = await coreRun(text.replaceAll(/concurrency: \d/g, 'concurrency: 1'), { answerTo });
    expect(outcomeOf(inOrder)).toEqual(outcomeOf(whole));
    // Where an item fails and ends its loop, others of the same time were sent already: in order these are not begun.
    const keys = whole.exit === 0 ? keysOf(whole) : keysOf(whole).filter((key) => keysOf(inOrder).includes(key));
    expect(keysOf(inOrder)).toEqual(keys);
  });
});
