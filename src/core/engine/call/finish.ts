import type { ExpectRecord, ProblemRecord } from '../../journal/records.ts';
import { mayRepeat } from '../../chain/changes.ts';
import type { CallStep, StatusArm, Undo } from '../../chain/model.ts';
import type { EventBody } from '../../journal/events.ts';
import { present } from '../../value/present.ts';
import { moreSevereExit } from '../exit.ts';
import type { StepOutcome } from '../outcome.ts';
import type { Replayed } from '../recorded.ts';
import type { EndStep, Ending } from '../steps/start.ts';
import { assertionFingerprint, requestText } from './fingerprint.ts';
import { brokenProblem, problemOf, whyNotAgain } from './problems.ts';
import { brokenEvent, newEvents } from './record.ts';
import type { Sent } from './sent.ts';
import type { CallSite } from './site.ts';

/** What came of a call, before it is written down. */
export type CallResult = Pick<Ending, 'before' | 'expects' | 'binds' | 'problem' | 'problems' | 'why' | 'waitedMs'> &
  Readonly<{
    x?: readonly number[];
    exit: number;
    cut?: true;
    skipped?: true;
    /** Nothing came of it, and nothing is in doubt. */
    isSettled?: true;
    /** Requests of the try that needed most. */
    tries?: number;
    tried?: readonly string[] | undefined;
    /** What is done for the status that came. */
    arm?: StatusArm;
  }>;

/** Writes the end of a call, in one go with what came just before it, and says how it ended. */
export function finishCall(site: CallSite, result: CallResult, end: EndStep): StepOutcome {
  if (result.skipped) return end({ outcome: 'skipped', why: 'you chose to skip it' });
  const { exit, cut, expects = [] } = result;
  const differs = recordedOtherwise(site);
  const outcome = exit === 0 ? 'passed' : cut ? 'cut' : 'failed';
  count(site, result, differs !== undefined || outcome === 'failed');
  end(endingOf(site, result, outcome, differs));
  const held = expects.filter(({ passed }) => passed).length;
  return {
    outcome: differs ? 'failed' : outcome,
    exit: cut ? 130 : differs ? moreSevereExit(exit, 1) : exit,
    calls: isMade(result) ? 1 : 0,
    expects: expects.length,
    passed: held,
    ...(cut ? { stops: true as const } : {}),
    ...(goesOnBehind(site, result, differs !== undefined) ? { goesOn: true as const } : {}),
  };
}

/** What was stopped before it was sent is no call that was made. */
function isMade({ cut, x }: CallResult): boolean {
  return !cut || x === undefined || x.length > 0;
}

function count({ context: { run } }: CallSite, { exit, tries = 1 }: CallResult, isFailed: boolean): void {
  if (exit === 0 && tries > 1) run.counters.retried++;
  if (isFailed) run.counters.failed++;
}

/** Whether what follows runs although the call failed. In a loop nothing further is sent to a server that does not answer. */
function goesOnBehind({ step, context }: CallSite, { exit, isSettled, cut }: CallResult, differs: boolean): boolean {
  if (differs && exit === 0) return true;
  const isGoneOn = exit === 3 && isSettled === true && !cut && !context.item;
  return step.onFailure === 'continue' && (exit === 1 || isGoneOn);
}

type Outcome = 'passed' | 'cut' | 'failed';

/** What is written down of the end of a call. */
function endingOf(site: CallSite, result: CallResult, outcome: Outcome, differs: ProblemRecord | undefined): Ending {
  const { replayed } = site;
  const { before = [], expects = [], x, problem, problems, binds, why, waitedMs } = result;
  const taken = replayed && outcome === 'passed' ? replayed.outcome : outcome;
  return {
    outcome: differs ? 'failed' : taken,
    before: eventsBefore(site, result, outcome),
    expects,
    ...present({ binds, why, waitedMs, problems, problem: differs ?? problem, x: x && [...x] }),
    ...triesOf(result, outcome === 'failed', before),
    ...fingerprints(site),
    ...(replayed && !replayed.isSameRun ? { from: fromOf(replayed) } : {}),
  };
}

/** How often it was tried, and how those tries ended that came to nothing. */
function triesOf(
  { tries = 1, tried = [] }: CallResult,
  isFailed: boolean,
  before: readonly EventBody[],
): Partial<Ending> {
  return {
    ...(tries > 1 ? { tries } : {}),
    ...(isFailed && tried.length > 0 ? { tried: [...tried, lastTry(before)] } : {}),
  };
}

/** What is recorded just before the end of a call. */
function eventsBefore(
  site: CallSite,
  { before = [], expects = [], arm }: CallResult,
  outcome: Outcome,
): readonly EventBody[] {
  const { step, context } = site;
  return [
    ...newEvents(site, before),
    // With a status that has steps of its own nothing was made.
    ...(outcome === 'passed' && !arm ? undoKept(site) : []),
    ...expects.flatMap((each) => acceptedOf(each, context.address)),
    ...(outcome === 'failed' ? notTakenBack(step, context.address, before) : []),
  ];
}

/** Keeps what takes back what the call made. */
function undoKept({ step, context }: CallSite): readonly EventBody[] {
  if (!step.undo) return [];
  const { undos } = context.run;
  const n = undos.length + 1;
  undos.push({ n, step: undoCall(step, step.undo), context });
  return [{ type: 'undo', n, step: context.address, key: context.key }];
}

/** A call that failed although the server did what it asked for has no undo, since nothing was kept of it. */
function notTakenBack({ name, undo }: CallStep, step: string, before: readonly EventBody[]): readonly EventBody[] {
  const answered = before.findLast((event) => event.type === 'answered');
  if (!undo || !answered || answered.status < 200 || answered.status > 299) return [];
  const message = `${name} was answered with ${answered.status} but failed: what it created was not undone and may still exist`;
  return [{ type: 'note', code: 'undo-failed', level: 'warning', message, step }];
}

/** The recorded response is used all the same, so that all differences of a chain are told at once. */
function recordedOtherwise({ step, replayed }: CallSite): ProblemRecord | undefined {
  const { differences = [] } = replayed ?? {};
  if (differences.length === 0) return undefined;
  const message = `This request differs from the recorded one: ${differences.join('; ')}`;
  return problemOf(step, 'recorded-otherwise', message, 'Run the chain to record the new request.');
}

/** The fingerprints by which a later run knows whether this call is to be done again. */
function fingerprints({ step, endpoint, context, replayed, sent }: CallSite) {
  const requestFingerprint = replayed?.call.ended.requestFingerprint ?? sent.fingerprint;
  if (requestFingerprint === undefined) return {};
  return {
    requestFingerprint,
    requestText: requestText(step, endpoint, context.runHost),
    assertionFingerprint: assertionFingerprint(step, endpoint, context.runHost),
  };
}

function fromOf({ call }: Replayed): { run: string; x: number[] } {
  return { run: call.run, x: call.exchanges.map(({ answered }) => answered.x) };
}

/** How the last try ended: its status, or that there was no response. */
function lastTry(before: readonly EventBody[]): string {
  for (const event of before) {
    if (event.type === 'answered') return String(event.status);
    if (event.type === 'broken') return 'no response';
  }
  return 'not evaluated';
}

/** What is told of an expectation that was accepted from the response. */
function acceptedOf({ text, source, accepted }: ExpectRecord, step: string): readonly EventBody[] {
  if (!accepted) return [];
  const message = `${text} was written from this response`;
  return [{ type: 'note', code: 'accepted', level: 'info', message, step, ...(source ? { source } : {}) }];
}

/** What came of a call that got no response, or was not sent; nothing when there is a response. */
export function resultOfUnsent(site: CallSite, sent: Sent): CallResult | undefined {
  const { numbers, tries = 1, tried } = sent;
  if ('declined' in sent) {
    if (sent.declined === 'skip') return { x: numbers, exit: 0, skipped: true };
    if (sent.declined === 'stop') site.context.run.pausing.begin({ why: 'interrupt' });
    return { x: numbers, exit: 130, cut: true };
  }
  if ('problem' in sent) return { x: numbers, problem: sent.problem, exit: sent.exit };
  if ('broken' in sent) return { ...resultOfBroken(site, sent), tries, tried };
  return undefined;
}

function resultOfBroken(
  { step, endpoint, context: { address, run } }: CallSite,
  { x, numbers, broken, notAgain }: Extract<Sent, { broken: object }>,
): CallResult {
  return {
    before: [brokenEvent(x, broken), ...whyNotAgain(step, address, notAgain)],
    x: numbers,
    problem: brokenProblem(step, endpoint, broken),
    exit: 3,
    ...(broken.reached === 'no' || mayRepeat(step) ? { isSettled: true as const } : {}),
    ...(run.signal.aborted ? { cut: true as const } : {}),
  };
}

/** The call that takes back what another made. */
function undoCall(step: CallStep, { request, expect }: Undo): CallStep {
  return {
    ...step,
    poll: undefined,
    rateLimit: undefined,
    freshFor: undefined,
    when: undefined,
    once: undefined,
    request: { ...request, auth: step.request.auth },
    expect,
    keep: [],
    undo: undefined,
    isUndo: true,
    onStatus: [],
    paging: undefined,
    save: undefined,
    replace: false,
    untilEvent: undefined,
    readAs: undefined,
    changes: undefined,
    onFailure: 'continue',
  };
}
