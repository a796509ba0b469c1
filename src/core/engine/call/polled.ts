import type { CallStep, Poll } from '../../chain/model.ts';
import { wholeOf, diagnosticIn } from '../../diagnostics/source.ts';
import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import { decodeBody } from '../../http/decode.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import type { HttpResponse } from '../../http/message.ts';
import type { BodyRef, ProblemRecord } from '../../journal/events.ts';
import type { Expression } from '../../schema/leaves.ts';
import { counted, spent } from '../../value/show.ts';
import { responseFrame, type RunContext } from '../context.ts';
import { explainNothing } from '../explain.ts';
import { judge } from '../judge.ts';
import { States, verdictOf } from '../attempts.ts';
import { pauseMs } from '../pause.ts';
import { problemRecord } from '../places.ts';
import { ResponseView } from '../response-names.ts';
import { askedToWait } from './asked-to-wait.ts';
import { sentEnding, type CallEnding } from './ending.ts';
import { answeredEvent } from './record.ts';
import { replyOf } from './problems.ts';
import { responseEnding } from './response.ts';
import { newEvents, requestsOf } from './requests.ts';
import { CallSink } from './sink.ts';

/** Of a look that was not the last the record holds what the conditions read, not its body. */
const NOT_KEPT: BodyRef = { sha256: '', size: 0, dropped: 'polled' };

/** Looks again and again until the response is as it is waited for, and judges the last one. */
export async function polledEnding(
  step: CallStep,
  address: string,
  poll: Poll,
  endpoint: Endpoint | undefined,
  context: RunContext,
): Promise<CallEnding> {
  const { clock, recorder, waits, stopping } = context;
  const numbers: number[] = [];
  const states = new States();
  const started = clock.monotonicMs();
  const read = [poll.giveUpWhen, poll.until];
  const onEach = { ...step, expect: [], keep: [] };
  let waitedMs = 0;
  let tries = 0;
  // Of recorded looks only the last one is whole, and decides.
  for (let attempt = context.replayed?.call.attempts ?? 1; ; attempt++) {
    const sender = requestsOf(step, address, endpoint, context);
    const sent = await sender.send({ attempt });
    const { tookMs = 0 } = sent;
    numbers.push(...sent.numbers);
    tries = Math.max(tries, sent.tries ?? 1);
    const around = { waitedMs, tries, why: counted(attempt, 'poll') };
    const unsent = sentEnding(step, address, sent, context);
    if (unsent) return { ...unsent, ...around, x: numbers };
    if (!('response' in sent)) throw new Error('A request that was sent has a response or an ending');
    const { response, request, x, isOwn, refused } = sent;
    const last = () => {
      const sink = new CallSink(step, address, endpoint, context, () => sender.resolvers);
      return responseEnding(step, address, sent, { endpoint, sink, tookMs, polls: attempt, context });
    };
    const decoded = decodeBody(response, step.readAs);
    const view = new ResponseView(
      response,
      decoded,
      { url: request.url, tookMs, polls: attempt, tries },
      step.namespaces,
    );
    const frame = responseFrame(context, endpoint, view);
    const records = judge(onEach, response.status, isOwn, { frame, exchange: x, endpoint, context });
    const isUseless = refused !== undefined || decoded.problem !== undefined || records.some(({ passed }) => !passed);
    if (isUseless) return { ...(await last()), ...around, x: numbers };
    const verdict = verdictOf(poll.until, poll.giveUpWhen, frame);
    const seen = states.add(read, frame, context);
    const progress = progressOf(poll.progress, frame);
    const failed = (problem: ProblemRecord): CallEnding => {
      const reply = replyOf(decoded, endpoint, frame);
      return {
        before: newEvents(context, [answeredEvent(x, response, decoded, context)]),
        x: numbers,
        problem: { ...problem, ...(reply ? { reply } : {}), seen: [...states.seen(read, frame, context)] },
        exit: 1,
        ...around,
      };
    };
    const attempted = (done: 'no' | 'until' | 'give-up-when' | 'deadline') =>
      recorder.record({
        type: 'attempted',
        step: address,
        attempt,
        seen,
        ...(progress === undefined ? {} : { progress }),
        done,
      });
    if ('problem' in verdict) return failed(verdict.problem);
    if (verdict.done === 'until') {
      attempted('until');
      return { ...(await last()), ...around, x: numbers };
    }
    const passed = clock.monotonicMs() - started;
    if (verdict.done === 'give-up-when') {
      attempted('give-up-when');
      return failed(
        problemAt(
          poll.giveUpWhen!,
          'gave-up',
          `give-up-when became true after ${counted(attempt, 'poll')} in ${spent(passed)}`,
        ),
      );
    }
    const pause = context.replayed ? undefined : pauseBehind(poll, attempt, response, passed, context);
    if (pause === undefined) {
      attempted('deadline');
      return failed(deadline(poll, attempt, frame));
    }
    recorder.record(answeredEvent(x, response, decoded, context, NOT_KEPT));
    attempted('no');
    const wait = waits.begin('poll', address, { detail: stateIn(seen), until: clock.nowMs() + pause });
    await clock.sleep(pause, stopping);
    waitedMs += wait.milliseconds();
    recorder.record(...wait.end());
    if (stopping.aborted) return { x: numbers, exit: 130, cut: true, ...around };
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
  { host, clock }: RunContext,
): number | undefined {
  const asked = askedToWait(response, clock) ?? 0;
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

function problemAt(
  { source }: Expression,
  code: 'gave-up' | 'deadline-passed',
  message: string,
  advice?: string,
): ProblemRecord {
  return problemRecord(diagnosticIn(source, { code, range: wholeOf(source), message, ...(advice ? { advice } : {}) }));
}

/** Of a condition that found nothing in the last look too, how far it got is told: often the path has a slip. */
function deadline({ until, withinMs }: Poll, attempts: number, frame: Frame): ProblemRecord {
  const message = `The time limit of ${spent(withinMs)} was reached after ${counted(attempts, 'poll')}, and this is still false`;
  if (evaluate(until.tree!, frame).value !== undefined)
    return problemAt(until, 'deadline-passed', message, 'Increase within if it may take longer.');
  const nothing = explainNothing(until.tree!, until.source, frame);
  return problemAt(until, 'deadline-passed', `${message}: ${nothing.message}`, nothing.advice);
}
