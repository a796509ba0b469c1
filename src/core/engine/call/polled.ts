import type { Poll } from '../../chain/model.ts';
import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import type { HttpResponse } from '../../http/message.ts';
import type { BodyRef, ProblemRecord } from '../../journal/events.ts';
import type { Expression } from '../../schema/leaves.ts';
import { counted, spent } from '../../value/show.ts';
import type { StepFrame } from '../frame.ts';
import { explainNothing } from '../explain.ts';
import { judge } from '../judge.ts';
import { States, verdictOf } from '../attempts.ts';
import { pauseMs } from '../pause.ts';
import { problemAt } from '../places.ts';
import { askedToWait } from './asked-to-wait.ts';
import { resultOfUnsent, type CallResult } from './finish.ts';
import { replyOf } from './problems.ts';
import { readResponse } from './read.ts';
import { judgedResponse } from './response.ts';
import type { CallSite } from './site.ts';
import { requestsOf } from './requests.ts';
import { answeredEvent, newEvents } from './record.ts';
import { CallSink } from './sink.ts';

/** Of a look that was not the last the record holds what the conditions read, not its body. */
const NOT_KEPT: BodyRef = { sha256: '', size: 0, dropped: 'polled' };

/** Looks again and again until the response is as it is waited for, and judges the last one. */
export async function polledResult(site: CallSite, poll: Poll): Promise<CallResult> {
  const { step, endpoint, context, replayed } = site;
  const { address, run } = context;
  const { clock, recorder, waits, stopping } = run;
  const numbers: number[] = [];
  const states = new States();
  const started = clock.monotonicMs();
  const conditions = [poll.giveUpWhen, poll.until];
  const onEach = { ...step, expect: [], keep: [] };
  let waitedMs = 0;
  let tries = 0;
  // Of recorded looks only the last one is whole, and decides.
  for (let attempt = replayed?.call.attempts ?? 1; ; attempt++) {
    const sender = requestsOf(site);
    const sent = await sender.send({ attempt });
    numbers.push(...sent.numbers);
    tries = Math.max(tries, sent.tries ?? 1);
    const around = { x: numbers, waitedMs, tries, why: counted(attempt, 'poll') };
    if (!('response' in sent)) return { ...resultOfUnsent(site, sent)!, ...around };
    const { response, x, isOwn, refused, tookMs = 0 } = sent;
    const last = async () => {
      const sink = new CallSink(site, () => sender.resolvers);
      return { ...(await judgedResponse(site, sent, sink, attempt)), ...around };
    };
    const { decoded, frame, judging } = readResponse(site, sent, { tookMs, polls: attempt, tries });
    const records = judge(onEach, response.status, isOwn, judging);
    if (refused || decoded.problem || records.some(({ passed }) => !passed)) return last();
    const verdict = verdictOf(poll.until, poll.giveUpWhen, frame);
    const seen = states.add(conditions, frame, context);
    const progress = progressOf(poll.progress, frame);
    const failed = (problem: ProblemRecord): CallResult => {
      const reply = replyOf(decoded, endpoint, frame);
      const read = { seen: [...states.seen(conditions, frame, context)] };
      return {
        before: newEvents(site, [answeredEvent(x, response, decoded, recorder)]),
        problem: { ...problem, ...(reply ? { reply } : {}), ...read },
        exit: 1,
        ...around,
      };
    };
    if ('problem' in verdict) return failed(verdict.problem);
    const { done } = verdict;
    const passedMs = clock.monotonicMs() - started;
    const pause = replayed || done !== 'no' ? undefined : pauseBehind(poll, attempt, response, passedMs, context);
    const goesOn = pause !== undefined;
    if (goesOn) recorder.record(answeredEvent(x, response, decoded, recorder, NOT_KEPT));
    recorder.record({
      type: 'attempted',
      step: address,
      attempt,
      seen,
      ...(progress === undefined ? {} : { progress }),
      done: done === 'no' && !goesOn ? 'deadline' : done,
    });
    if (done === 'until') return last();
    if (done === 'give-up-when') return failed(gaveUp(poll.giveUpWhen!, attempt, passedMs));
    if (!goesOn) return failed(deadline(poll, attempt, frame));
    const wait = waits.begin('poll', address, { detail: stateIn(seen), until: clock.nowMs() + pause });
    await clock.sleep(pause, stopping);
    waitedMs += wait.milliseconds();
    recorder.record(...wait.end());
    if (stopping.aborted) return { ...around, exit: 130, cut: true, waitedMs };
  }
}

/**
 * The pause before the next look; nothing when there is to be none any more. The last one is shortened so that a look falls
 * on the deadline, but never below what the server asks for.
 */
function pauseBehind(
  { every, withinMs }: Poll,
  attempt: number,
  response: HttpResponse,
  passedMs: number,
  { host, run }: StepFrame,
): number | undefined {
  const asked = askedToWait(response, run.clock) ?? 0;
  const left = withinMs - passedMs;
  if (left <= 0 || asked > left) return undefined;
  return Math.min(left, Math.max(asked, pauseMs(every, attempt, host)));
}

function progressOf(progress: Expression | undefined, frame: Frame): number | undefined {
  const value = progress?.tree && evaluate(progress.tree, frame).value;
  return typeof value === 'number' ? Math.min(100, Math.max(0, value)) : undefined;
}

/** The first thing that the conditions read, in a word. */
function stateIn(seen: Readonly<Record<string, unknown>>): string {
  const [first] = Object.values(seen) as { json?: unknown }[];
  return first?.json === undefined ? '' : String(first.json);
}

function gaveUp({ source }: Expression, attempts: number, passedMs: number): ProblemRecord {
  const message = `give-up-when became true after ${counted(attempts, 'poll')} in ${spent(passedMs)}`;
  return problemAt(source, 'gave-up', message);
}

/** Of a condition that found nothing in the last look too, how far it got is told: often the path has a slip. */
function deadline({ until, withinMs }: Poll, attempts: number, frame: Frame): ProblemRecord {
  const message = `The time limit of ${spent(withinMs)} was reached after ${counted(attempts, 'poll')}, and this is still false`;
  if (evaluate(until.tree!, frame).value !== undefined)
    return problemAt(until.source, 'deadline-passed', message, 'Increase within if it may take longer.');
  const nothing = explainNothing(until.tree!, until.source, frame);
  return problemAt(until.source, 'deadline-passed', `${message}: ${nothing.message}`, nothing.advice);
}
