import type { CallStep, Undo } from '../../chain/model.ts';
import type { Code } from '../../diagnostics/catalogue.ts';
import type { EventBody, ExpectRecord, ProblemRecord } from '../../journal/events.ts';
import type { RunContext } from '../context.ts';
import type { StepOutcome } from '../steps/definition.ts';
import { ended, type Ending } from '../steps/ended.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import { assertionFingerprint } from './fingerprint.ts';
import { worse } from '../worse.ts';
import { brokenProblem, problemOf, whyNotAgain } from './problems.ts';
import type { Replayed } from './replay.ts';
import { newEvents } from './requests.ts';
import type { Broken } from '../../http/message.ts';
import type { Sent } from './send.ts';

export type CallEnding = Pick<Ending, 'before' | 'expects' | 'binds' | 'problem' | 'problems' | 'why' | 'waitedMs'> &
  Readonly<{
    x?: readonly number[];
    exit: number;
    cut?: true;
    skipped?: true;
    /** Requests of the try that needed most. */
    tries?: number;
  }>;

/** Writes the end of a call, in one go with what came just before it, and says how it ended. */
export function ender(
  step: CallStep,
  address: string,
  endpoint: Endpoint | undefined,
  context: RunContext,
): (ending: CallEnding) => StepOutcome {
  const end = ended(step, address, context);
  return ({ before = [], x, expects = [], exit, cut, skipped, tries = 1, ...rest }) => {
    if (skipped) return end({ outcome: 'skipped', why: 'you chose to skip it' });
    if (exit === 0 && tries > 1) context.counters.retried++;
    const notes = expects.flatMap((each) => notesOn(each, address));
    const outcome = exit === 0 ? 'passed' : cut ? 'cut' : 'failed';
    const undo: EventBody[] = [];
    if (outcome === 'passed' && step.undo) {
      const n = context.undos.length + 1;
      context.undos.push({ n, address, step: undoCall(step, step.undo), context: { ...context, replayed: undefined } });
      undo.push({ type: 'undo', n, step: address, key: context.keyPrefix + step.name });
    }
    const numbers: { x?: number[] } = x === undefined ? {} : { x: [...x] };
    const { replayed } = context;
    const differs = replayed?.differences?.length ? recordedOtherwise(step, replayed.differences) : undefined;
    if (differs || outcome === 'failed') context.counters.failed++;
    end({
      outcome: differs ? 'failed' : replayed && outcome === 'passed' ? replayed.outcome : outcome,
      before: [
        ...newEvents(context, before),
        ...undo,
        ...notes,
        ...(outcome === 'failed' ? notTakenBack(step, address, before) : []),
      ],
      expects,
      ...rest,
      ...(differs ? { problem: differs } : {}),
      ...numbers,
      ...(tries > 1 ? { tries } : {}),
      ...prints(step, endpoint, context),
      ...(replayed && !replayed.isSameRun ? { from: fromOf(replayed) } : {}),
    });
    return {
      outcome: differs ? 'failed' : outcome,
      exit: cut ? 130 : differs ? worse(exit, 1) : exit,
      // What was stopped before it was sent is no call that was made.
      calls: cut && numbers.x?.length === 0 ? 0 : 1,
      expects: expects.length,
      passed: expects.filter(({ passed }) => passed).length,
      ...(cut ? { stops: true as const } : {}),
      ...((differs && exit === 0) || (exit === 1 && step.onFailure === 'continue') ? { goesOn: true as const } : {}),
    };
  };
}

/** A call that failed although the server did what it asked for has no undo, since nothing was kept of it. */
function notTakenBack({ name, undo }: CallStep, step: string, before: readonly EventBody[]): readonly EventBody[] {
  const answered = before.findLast((event) => event.type === 'answered');
  if (!undo || !answered || answered.status < 200 || answered.status > 299) return NO_EVENTS;
  const message = `${name} was answered with ${answered.status} but failed: what it created was not undone and may still exist`;
  return [{ type: 'note', code: 'undo-failed', level: 'warning', message, step }];
}

/** The recorded response is used all the same, so that all differences of a chain are told at once. */
function recordedOtherwise(step: CallStep, differences: readonly string[]): ProblemRecord {
  const message = `This request differs from the recorded one: ${differences.join('; ')}`;
  return problemOf(step, 'recorded-otherwise', message, 'Run the chain to record the new request.');
}

/** The fingerprints by which a later run knows whether this call is to be done again. */
function prints(step: CallStep, endpoint: Endpoint | undefined, context: RunContext) {
  const { replayed, printed } = context;
  const key = context.keyPrefix + step.name;
  const requestFingerprint = replayed?.call.ended.requestFingerprint ?? printed.get(key);
  printed.delete(key);
  return requestFingerprint === undefined
    ? {}
    : { requestFingerprint, assertionFingerprint: assertionFingerprint(step, endpoint, context) };
}

function fromOf({ call }: Replayed): { run: string; x: number[] } {
  return { run: call.run, x: call.exchanges.map(({ answered }) => answered.x) };
}

const NO_EVENTS: readonly EventBody[] = [];

/** What is told of an expectation although it held: it said nothing of the response, or part of it had no effect. */
function notesOn(
  { text, source, overNone, idleExcept = [], accepted }: ExpectRecord,
  step: string,
): readonly EventBody[] {
  const note = (code: Code, level: 'warning' | 'info', message: string): EventBody => ({
    type: 'note',
    code,
    level,
    message,
    step,
    ...(source ? { source } : {}),
  });
  if (!overNone && !accepted && idleExcept.length === 0) return NO_EVENTS;
  return [
    ...(overNone ? [note('nothing-to-check', 'warning', `${text} is true only because the array is empty`)] : []),
    ...idleExcept.map((path) =>
      note(
        'except-finds-nothing',
        'warning',
        `except ${path} found nothing, neither in the response nor in the expected value`,
      ),
    ),
    ...(accepted ? [note('accepted', 'info', `${text} was written from this response`)] : []),
  ];
}

/** The end of a call that got no response, or was not sent; nothing when there is a response. */
export function sentEnding(step: CallStep, address: string, sent: Sent, context: RunContext): CallEnding | undefined {
  const { numbers, tries = 1 } = sent;
  if ('declined' in sent) {
    if (sent.declined === 'skip') return { x: numbers, exit: 0, skipped: true };
    if (sent.declined === 'stop') context.pausing.begin({ why: 'interrupt' });
    return { x: numbers, exit: 130, cut: true };
  }
  if ('problem' in sent) return { x: numbers, problem: sent.problem, exit: sent.exit };
  if ('broken' in sent) return { ...brokenEnding(step, address, sent, context), tries };
  return undefined;
}

/** The end of a call that got no response. */
function brokenEnding(
  step: CallStep,
  address: string,
  { x, numbers, broken, notAgain }: Extract<Sent, { broken: object }>,
  { signal }: RunContext,
): CallEnding {
  const event = brokenEvent(x, broken);
  const cut = signal.aborted ? { cut: true as const } : {};
  return {
    before: [event, ...whyNotAgain(step, address, notAgain)],
    x: numbers,
    problem: brokenProblem(step, broken),
    exit: 3,
    ...cut,
  };
}

export function brokenEvent(x: number, { cause, phase, reached, message }: Broken): EventBody {
  return { type: 'broken', x, cause, phase, reached, message };
}

/** The call that takes back what another made. */
function undoCall(step: CallStep, { request, expect }: Undo): CallStep {
  return {
    ...step,
    poll: undefined,
    rateLimit: undefined,
    freshForMs: undefined,
    when: undefined,
    request: { ...request, auth: step.request.auth },
    expect,
    keep: [],
    undo: undefined,
    isUndo: true,
    paging: undefined,
    save: undefined,
    untilEvent: undefined,
    readAs: undefined,
    changes: undefined,
    onFailure: 'continue',
  };
}
