import { changesSomething, mayRepeat } from '../../chain/changes.ts';
import type { CallStep } from '../../chain/model.ts';
import { isSafe } from '../../http/methods.ts';
import type { HttpRequest, HttpResponse } from '../../http/message.ts';
import { callsOf } from '../../chain/steps/inside.ts';
import type { CallRecords, RecordedCall } from '../../journal/call-records.ts';
import { isDone } from '../../journal/call-records.ts';
import type { StepFrame } from '../frame.ts';
import { mediaTypeOf } from '../../http/decode.ts';
import { headerOf } from '../../http/message.ts';
import { fillFileName } from '../../template/fill.ts';
import { catchFillFault } from '../fill.ts';
import { resolversFor, type Resolvers } from '../resolvers.ts';
import type { SettledBody } from '../../journal/events.ts';
import type { Recorded, Replayed } from '../recorded.ts';
import type { CallSite } from './site.ts';
import { digestOf } from './record.ts';
import type { Doubt } from './doubt.ts';
import { RequestBuilder } from './build.ts';
import { differencesOf } from './differences.ts';
import { assertionFingerprint, requestFingerprint } from './fingerprint.ts';
import type { Requests, Round, Sent } from './sent.ts';

/** What to do about a call before anything is sent. */
export type Before =
  | Readonly<{ replayed: Replayed }>
  | Readonly<{ doubt: Doubt }>
  /** It is known to have been done, and nothing came back of it but what a person said. */
  | Readonly<{ taken: SettledBody }>
  /** It was done, changes something, and would be another request now. */
  | Readonly<{ changed: readonly string[] }>
  | Readonly<{ notRecorded: true }>
  /** It was done, and the file that it saved is another one since. */
  | Readonly<{ savedChanged: string }>
  /** It was done, and a secret that it gave is in no record. */
  | Readonly<{ secretGone: string }>
  | Readonly<{ send: true; forSecrets?: true }>;

/** Whether a recorded response serves, by the rules of going on. */
export function beforeSending(site: CallSite): Before {
  const { step, endpoint, context } = site;
  const { key, recorded, redone, run } = context;
  const { fresh } = run;
  if (!recorded && !(fresh && step.freshForMs !== undefined)) return SEND;
  if (recorded?.mode === 'only' && step.name === run.settings.goal?.call) return SEND;
  const first = new RequestBuilder(step.request, endpoint, context).first();
  context.host.beginAgain();
  // What cannot be built is told when it is sent.
  if ('problem' in first) return SEND;
  const { shown, isOwn } = first.value;
  const print = requestFingerprint(shown, site);
  if (recorded && recorded.mode !== 'go-on') {
    const call = recorded.records.call(key, true);
    if (!call || call.exchanges.length === 0) return { notRecorded: true };
    const differences =
      recorded.mode === 'rehearse' && call.first ? differencesOf(shown, call.first.request, call.body) : [];
    const saved = savedValue(step, call, recorded.records);
    return {
      replayed: { outcome: 'reused', call, body: call.body, isSameRun: false, isOwn, differences, ...saved },
    };
  }
  if (recorded && !step.isUndo) {
    const before = goingOn(site, { print, shown }, recorded);
    if (before === 'made-anew') return { send: true, forSecrets: true };
    if (before) return 'call' in before ? { replayed: { ...before, isOwn } } : before;
  }
  if (fresh && step.freshForMs !== undefined && !redone.isRedone) {
    const found = fresh(print, step.freshForMs);
    if (found) return { replayed: { ...found, outcome: 'fresh', isSameRun: false, isOwn } };
  }
  redone.mark();
  return SEND;
}

const SEND: Before = { send: true };

/** By what was recorded of it; nothing when that says nothing. What is made anew for its secrets or cookies changes nothing. */
function goingOn(
  { step, endpoint, context }: CallSite,
  { print, shown }: Readonly<{ print: string; shown: HttpRequest }>,
  { records, isSameRun, changed, lost }: Recorded,
): Omit<Replayed, 'isOwn'> | Exclude<Before, { replayed: Replayed }> | 'made-anew' | undefined {
  const { address, run } = context;
  const isRepeatable = mayRepeat(step);
  const key = records.keyOf(context.key, print, () => new Set(callsOf(context.chain).map(({ name }) => name)));
  const settled = isSameRun ? records.settled(key, address) : undefined;
  if (settled?.as === 'sent') return { taken: settled };
  const isToSend = settled?.as === 'not-sent';
  const open = records.unanswered(key);
  if (open && isSameRun && !isRepeatable) return { doubt: open };
  const call = records.call(key);
  // What a damaged record has lost is in doubt, and never taken as done or as not done.
  const isLost = call ? call.exchanges.length === 0 && isDone(call.ended) : records.hasLost;
  if (isLost && isSameRun && !isRepeatable && !isToSend) {
    if (lost === 'sent') return { taken: { type: 'settled', step: address, key, as: lost } };
    if (lost === undefined) return { doubt: { at: call?.ended.at, request: shown } };
    return undefined;
  }
  if (!call || call.exchanges.length === 0) return undefined;
  if (call.ended.requestFingerprint !== print) {
    const isChange = isSameRun && changesSomething(step) && step.repeatable !== true && wasDone(call);
    const differences = isChange ? differencesOf(shown, call.exchanges.at(-1)!.sent.request, call.body) : [];
    if (differences.length === 0 && !isChange) return undefined;
    if (differences.length > 0) {
      const isAnswered = settled && (settled.requestFingerprint === undefined || settled.requestFingerprint === print);
      const said = isToSend ? 'resend' : isAnswered ? settled.as : changed;
      // What was said once holds for this very request, in every run that goes on from here.
      if ((said === 'resend' || said === 'skip') && settled?.requestFingerprint !== print)
        run.recorder.record({ type: 'settled', step: address, key, as: said, requestFingerprint: print });
      if (said === 'resend') return undefined;
      if (said !== 'skip') return { changed: differences };
    }
  }
  const isRecordedHere = isSameRun && call.run === records.run;
  const replayed = { outcome: 'reused', call, body: call.body, isSameRun: isRecordedHere } as const;
  const isSafelyRead = isSafe(step.request.line?.method ?? 'GET');
  if (isDone(call.ended)) {
    if (context.redone.isRedone && isSafelyRead) return undefined;
    if (step.save) {
      if (isSavedStill(step, call, records, context)) return { ...replayed, ...savedValue(step, call, records) };
      return isSafelyRead || isToSend
        ? undefined
        : { savedChanged: records.saved(call.ended.step)?.path ?? step.save.source.text };
    }
    if (isRepeatable && holdsWhatIsNotRecorded(call)) return 'made-anew';
    const gone = call.ended.binds?.find(({ masked }) => masked);
    if (!gone) return replayed;
    return isToSend ? undefined : { secretGone: gone.name };
  }
  const { status } = call.exchanges.at(-1)!.answered;
  // The change was made, though what came of it was not as expected: it is not made twice.
  if (!isRepeatable && status >= 200 && status < 300 && !isToSend) return replayed;
  return call.ended.assertionFingerprint === assertionFingerprint(step, endpoint, context.runHost)
    ? undefined
    : replayed;
}

/** Whether the server did what a recorded call asked for. */
function wasDone(call: RecordedCall): boolean {
  const { status } = call.exchanges.at(-1)!.answered;
  return isDone(call.ended) || (status >= 200 && status < 300);
}

/** Whether the file to which a response was saved is there as it was then. */
function isSavedStill(step: CallStep, { ended }: RecordedCall, records: CallRecords, context: StepFrame): boolean {
  const saved = records.saved(ended.step);
  const named = catchFillFault(() => fillFileName(step.save!, resolversFor(context).real));
  if (!saved || 'problem' in named) return false;
  const file = context.runHost.openFile(named.value);
  return !('message' in file) && file.size === saved.after.size && digestOf(file) === saved.after.sha256;
}

/** What `$` was of a response that was saved. */
function savedValue({ save }: CallStep, { ended, exchanges }: RecordedCall, records: CallRecords) {
  const file = save && records.saved(ended.step);
  if (!file) return {};
  const { size, sha256 = '' } = file.after;
  const type = mediaTypeOf(headerOf(exchanges.at(-1)?.answered.headers ?? [], 'content-type')).type;
  return { saved: { path: file.path, size, type, sha256 } };
}

/** Secrets, cookies and bodies that went elsewhere are in no record: what gave them is asked again, where it may be. */
function holdsWhatIsNotRecorded({ ended, exchanges }: RecordedCall): boolean {
  if (ended.binds?.some(({ masked }) => masked)) return true;
  return exchanges.some(
    ({ answered: { setCookies, body } }) => setCookies !== undefined || (body && 'dropped' in body),
  );
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
