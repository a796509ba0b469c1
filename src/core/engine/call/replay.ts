import { freshForOf } from '../fresh-for.ts';
import { goingOn, savedValue, type NotSent } from './going-on.ts';
import type { HttpResponse } from '../../http/message.ts';
import type { ReexecutionFlag } from '../reexecution-flag.ts';
import type { Resolvers } from '../resolvers.ts';
import type { Recorded, Replayed } from '../recorded.ts';
import type { CallSite } from './site.ts';
import { recordedList } from './streamed.ts';
import { RequestBuilder, type Pair } from './build.ts';
import { differencesOf } from './differences.ts';
import { requestFingerprint } from './fingerprint.ts';
import type { Requests, Round, Sent } from './sent.ts';

/** What to do about a call before anything is sent. */
export type Before =
  | Readonly<{ replayed: Replayed }>
  | NotSent
  | Readonly<{ notRecorded: true }>
  | Readonly<{ send: true; forSecrets?: true }>;

/** Whether a recorded response serves, by the rules of going on. */
export function beforeSending(site: CallSite): Before {
  const { step, context } = site;
  const { recorded, redone, run } = context;
  const freshForMs = run.fresh && freshForOf(step, site.endpoint, run.clock.nowMs());
  if (recorded ? isTheGoal(site, recorded) : freshForMs === undefined) return SEND;
  const first = new RequestBuilder(step.request, site.endpoint, context).first();
  context.host.beginAgain();
  // What cannot be built is told when it is sent.
  if ('problem' in first) return SEND;
  const { shown, isOwn } = first.value;
  if (recorded && recorded.mode !== 'go-on') return takenWhole(site, first.value, recorded);
  const fingerprint = requestFingerprint(shown, site);
  const known = recorded && !step.isUndo ? goingOn(site, { fingerprint, shown }, recorded) : undefined;
  if (known) return knownBefore(known, isOwn, redone);
  const found = freshForMs !== undefined && !redone.isRedone ? run.fresh!(fingerprint, freshForMs) : undefined;
  if (found) return { replayed: { ...found, outcome: 'fresh', isSameRun: false, isOwn } };
  redone.mark();
  return SEND;
}

const SEND: Before = { send: true };

function knownBefore(known: NonNullable<ReturnType<typeof goingOn>>, isOwn: boolean, redone: ReexecutionFlag): Before {
  if (known === 'made-anew') {
    redone.madeAnew();
    return { send: true, forSecrets: true };
  }
  return 'call' in known ? { replayed: { ...known, isOwn } } : known;
}

function isTheGoal({ step, context }: CallSite, { mode }: Recorded): boolean {
  return mode === 'only' && step.name === context.run.settings.goal?.call;
}

/** In a rehearsal, and before the one call that is sent, what was recorded serves whatever the request is now. */
function takenWhole(site: CallSite, { shown, isOwn }: Pair, { mode, records }: Recorded): Before {
  const { step, context } = site;
  const call = records.call(context.key, true);
  if (!call || call.exchanges.length === 0) return { notRecorded: true };
  const differences = mode === 'rehearse' && call.first ? differencesOf(shown, call.first.request, call.body) : [];
  const list = recordedList(site, call);
  if (list === 'gone') return { notRecorded: true };
  const elsewhere = { ...savedValue(step, call, records), ...list };
  return { replayed: { outcome: 'reused', call, body: call.body, isSameRun: false, isOwn, differences, ...elsewhere } };
}

/** Gives recorded responses as if they had just come. */
export class Replayer implements Requests {
  constructor(
    private readonly replayed: Replayed,
    readonly resolvers: Resolvers,
  ) {}

  send({ page = 1 }: Round = {}): Promise<Sent> {
    const { call, body, isOwn, isSameRun } = this.replayed;
    const exchange = call.exchanges.find(({ sent }) => (sent.page ?? 1) === page) ?? call.exchanges.at(-1)!;
    const { sent, answered } = exchange;
    const { method, url, headers } = sent.request;
    const response: HttpResponse = {
      ...answered,
      body: (answered.body && body(answered.body)) ?? new Uint8Array(),
    };
    const { blocked: _blocked, ...spent } = answered.timings;
    const tookMs = Object.values(spent).reduce((sum, ms) => sum + ms, 0);
    const request = { method, url, headers };
    return Promise.resolve({ numbers: isSameRun ? [answered.x] : [], x: answered.x, request, response, isOwn, tookMs });
  }
}
