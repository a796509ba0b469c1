import { isDone } from '../../journal/call-end.ts';
import { changesSomething, mayRepeat } from '../../chain/changes.ts';
import type { CallStep } from '../../chain/model.ts';
import { callsOf } from '../../chain/steps/inside.ts';
import { mediaTypeOf } from '../../http/decode.ts';
import { headerOf, type HttpRequest } from '../../http/message.ts';
import { isSafe } from '../../http/methods.ts';
import { type CallRecords, type RecordedCall } from '../../journal/call-records.ts';
import type { SettledBody } from '../../journal/events.ts';
import { fillFileName } from '../../template/fill.ts';
import { catchFillFault } from '../fill.ts';
import type { StepFrame } from '../frame.ts';
import type { Recorded, Replayed } from '../recorded.ts';
import { resolversFor } from '../resolvers.ts';
import { differencesOf } from './differences.ts';
import type { Doubt } from './doubt.ts';
import { assertionFingerprint } from './fingerprint.ts';
import { digestOf } from './record.ts';
import type { CallSite } from './site.ts';
import { recordedList } from './streamed.ts';

/** Why a call is not sent although no recorded response serves. */
export type NotSent =
  | Readonly<{ doubt: Doubt }>
  /** It is known to have been done, and nothing came back of it but what a person said. */
  | Readonly<{ taken: SettledBody }>
  /** It was done, changes something, and would be another request now. */
  | Readonly<{ changed: readonly string[] }>
  /** It was done, and the file that it saved is another one since. */
  | Readonly<{ savedChanged: string }>
  /** It was done, and a secret that it gave is in no record. */
  | Readonly<{ secretGone: string }>;

/** What a record says of a call that would be sent now; nothing when it is to be sent. */
type Recalled = Omit<Replayed, 'isOwn'> | NotSent | 'made-anew' | undefined;

/** A call as it would be sent, beside what is recorded of it. */
type Beside = Readonly<{
  site: CallSite;
  recorded: Recorded;
  fingerprint: string;
  shown: HttpRequest;
  key: string;
  /** What a person said of it. */
  settled: SettledBody | undefined;
  isRepeatable: boolean;
  /** A person said that the server did not process it. */
  isToSend: boolean;
}>;

/** By what was recorded of it; nothing when that says nothing. What is made anew for its secrets or cookies changes nothing. */
export function goingOn(
  site: CallSite,
  { fingerprint, shown }: Readonly<{ fingerprint: string; shown: HttpRequest }>,
  recorded: Recorded,
): Recalled {
  const { step, context } = site;
  const { records, isSameRun } = recorded;
  const key = records.keyOf(context.key, fingerprint, () => new Set(callsOf(context.chain).map(({ name }) => name)));
  const settled = isSameRun ? records.settled(key, context.address) : undefined;
  if (settled?.as === 'sent') return { taken: settled };
  const isToSend = settled?.as === 'not-sent';
  const beside = { site, recorded, fingerprint, shown, key, settled, isRepeatable: mayRepeat(step), isToSend };
  const open = isSameRun && !beside.isRepeatable ? records.unanswered(key) : undefined;
  if (open) return { doubt: open };
  const call = records.call(key);
  if (isLost(call, beside)) return recallLost(call, beside);
  if (!call || call.exchanges.length === 0) return undefined;
  const changed = recallChanged(call, beside);
  if (changed !== 'the-same') return changed;
  return isDone(call.ended) ? recallDone(call, beside) : recallFailed(call, beside);
}

/** What a damaged record has lost is in doubt, and never taken as done or as not done. */
function isLost(call: RecordedCall | undefined, { recorded, isRepeatable, isToSend }: Beside): boolean {
  if (!recorded.isSameRun || isRepeatable || isToSend) return false;
  return call ? call.exchanges.length === 0 && isDone(call.ended) : recorded.records.hasLost;
}

function recallLost(call: RecordedCall | undefined, { site, recorded: { lost }, key, shown }: Beside): Recalled {
  if (lost === 'sent') return { taken: { type: 'settled', step: site.context.address, key, as: lost } };
  return lost === undefined ? { doubt: { at: call?.ended.at, request: shown } } : undefined;
}

/** A request that is another one now; the same where only what the record does not hold differs. */
function recallChanged(call: RecordedCall, beside: Beside): Recalled | 'the-same' {
  const { site, recorded, settled, fingerprint, shown } = beside;
  const { step } = site;
  if (call.ended.requestFingerprint === fingerprint) return 'the-same';
  const isChange = recorded.isSameRun && changesSomething(step) && step.repeatable !== true && wasDone(call);
  if (!isChange) return undefined;
  const differences = differencesOf(shown, call.exchanges.at(-1)!.sent.request, call.body);
  if (differences.length === 0) return 'the-same';
  const said = saidOfChange(beside);
  // What was said once holds for this very request, in every run that goes on from here.
  if (said !== undefined && settled?.requestFingerprint !== fingerprint) recordSaid(said, beside);
  if (said === 'resend') return undefined;
  return said === 'skip' ? 'the-same' : { changed: differences };
}

function saidOfChange({ settled, isToSend, fingerprint, recorded }: Beside): 'resend' | 'skip' | undefined {
  if (isToSend) return 'resend';
  const isOfThis = settled && (settled.requestFingerprint ?? fingerprint) === fingerprint;
  if (!isOfThis) return recorded.changed;
  return settled.as === 'resend' || settled.as === 'skip' ? settled.as : undefined;
}

function recordSaid(as: 'resend' | 'skip', { site: { context }, key, fingerprint: requestFingerprint }: Beside): void {
  context.run.recorder.record({ type: 'settled', step: context.address, key, as, requestFingerprint });
}

function replayedOf(call: RecordedCall, { isSameRun, records }: Recorded): Omit<Replayed, 'isOwn'> {
  return { outcome: 'reused', call, body: call.body, isSameRun: isSameRun && call.run === records.run };
}

/** A call that was done: taken as it is, but for what no record holds. */
function recallDone(call: RecordedCall, beside: Beside): Recalled {
  const { site, isRepeatable, isToSend } = beside;
  const { step, context } = site;
  const isRead = isSafe(step.request.line?.method ?? 'GET');
  if (context.redone.isRedone && isRead) return undefined;
  if (step.save) return recallSaved(call, step.save, beside, isRead || isToSend);
  if (isRepeatable && holdsWhatIsNotRecorded(call)) return 'made-anew';
  const gone = call.ended.binds?.find(({ masked }) => masked);
  if (gone) return isToSend ? undefined : { secretGone: gone.name };
  return recallStreamed(call, beside);
}

/** A list that stands in lines beside the journal serves while all of it is there. */
function recallStreamed(call: RecordedCall, { site, recorded, isRepeatable, isToSend }: Beside): Recalled {
  const list = recordedList(site, call);
  if (list !== 'gone') return { ...replayedOf(call, recorded), ...list };
  if (isRepeatable) return 'made-anew';
  return isToSend ? undefined : { secretGone: site.step.name };
}

/** A response that went into a file serves while the file is as it was. */
function recallSaved(
  call: RecordedCall,
  save: NonNullable<CallStep['save']>,
  { site: { step, context }, recorded }: Beside,
  mayBeSent: boolean,
): Recalled {
  const { records } = recorded;
  if (isSavedStill(step, call, records, context))
    return { ...replayedOf(call, recorded), ...savedValue(step, call, records) };
  return mayBeSent ? undefined : { savedChanged: records.steps.saved(call.ended.step)?.path ?? save.source.text };
}

/** A call that failed: judged again where its expectations changed. */
function recallFailed(call: RecordedCall, { site, recorded, isRepeatable, isToSend }: Beside): Recalled {
  const { step, endpoint, context } = site;
  // The change was made, though what came of it was not as expected: it is not made twice.
  if (!isRepeatable && hasSucceeded(call) && !isToSend) return replayedOf(call, recorded);
  const isJudgedAlike = call.ended.assertionFingerprint === assertionFingerprint(step, endpoint, context.runHost);
  return isJudgedAlike || recordedList(site, call) === 'gone' ? undefined : replayedOf(call, recorded);
}

/** Whether the server did what a recorded call asked for. */
function wasDone(call: RecordedCall): boolean {
  return isDone(call.ended) || hasSucceeded(call);
}

function hasSucceeded({ exchanges }: RecordedCall): boolean {
  const { status } = exchanges.at(-1)!.answered;
  return status >= 200 && status < 300;
}

/** Whether the file to which a response was saved is there as it was then. */
function isSavedStill(step: CallStep, { ended }: RecordedCall, records: CallRecords, context: StepFrame): boolean {
  const saved = records.steps.saved(ended.step);
  const named = catchFillFault(() => fillFileName(step.save!, resolversFor(context).real));
  if (!saved || 'problem' in named) return false;
  const file = context.runHost.openFile(named.value);
  return !('message' in file) && file.size === saved.after.size && digestOf(file) === saved.after.sha256;
}

/** What `$` was of a response that was saved. */
export function savedValue(
  { save }: CallStep,
  { ended, exchanges }: RecordedCall,
  records: CallRecords,
): Pick<Replayed, 'decoded'> {
  const file = save && records.steps.saved(ended.step);
  if (!file) return {};
  const { size, sha256 = '' } = file.after;
  const type = mediaTypeOf(headerOf(exchanges.at(-1)?.answered.headers ?? [], 'content-type')).type;
  return { decoded: { as: 'bytes', value: { path: file.path, size, type, sha256 } } };
}

/** Secrets, cookies and bodies that went elsewhere are in no record: what gave them is asked again, where it may be. */
function holdsWhatIsNotRecorded({ ended, exchanges }: RecordedCall): boolean {
  if (ended.binds?.some(({ masked }) => masked)) return true;
  return exchanges.some(
    ({ answered: { setCookies, body } }) =>
      setCookies !== undefined || (body && 'dropped' in body && body.dropped !== 'streamed'),
  );
}
