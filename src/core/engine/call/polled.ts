import type { BodyRef, ProblemRecord } from '../../journal/records.ts';
import type { Poll } from '../../chain/poll.ts';
import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import type { HttpResponse } from '../../http/message.ts';
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
import { present } from '../../value/present.ts';
import type { Answered, Sent } from './sent.ts';
import type { CallSite } from './site.ts';
import { requestsOf } from './requests.ts';
import { answeredEvent, brokenEvent, newEvents } from './record.ts';
import { CallSink } from './sink.ts';

/** Of a look that was not the last the record holds what the conditions read, not its body. */
const NOT_KEPT: BodyRef = { size: 0, dropped: 'polled' };

/** Looks again and again until the response is as it is waited for, and judges the last one. */
export function polledResult(site: CallSite, poll: Poll): Promise<CallResult> {
  return new Polling(site, poll).result();
}

/** The looks of one call. */
class Polling {
  private readonly numbers: number[] = [];
  private readonly states = new States();
  private readonly conditions: readonly (Expression | undefined)[];
  private readonly started: number;
  private waitedMs = 0;
  private tries = 0;
  /** Polls that failed one after the other, of those that are tolerated. */
  private failures = 0;

  constructor(
    private readonly site: CallSite,
    private readonly poll: Poll,
  ) {
    this.conditions = [poll.giveUpWhen, poll.until];
    this.started = site.context.run.clock.monotonicMs();
  }

  async result(): Promise<CallResult> {
    // Of recorded looks only the last one is whole, and decides.
    for (let attempt = this.site.replayed?.call.attempts ?? 1; ; attempt++) {
      const result = await this.look(attempt);
      if (result) return result;
    }
  }

  /** One look; nothing when there is to be another. */
  private async look(attempt: number): Promise<CallResult | undefined> {
    const { site, poll } = this;
    const { step, context } = site;
    const sender = requestsOf(site);
    const sent = await sender.send({ attempt });
    this.numbers.push(...sent.numbers);
    this.tries = Math.max(this.tries, sent.tries ?? 1);
    if (!('response' in sent)) return this.unanswered(sent, attempt);
    const last = async () => {
      const sink = new CallSink(site, () => sender.resolvers);
      return { ...(await judgedResponse(site, sent, sink, attempt)), ...this.around(attempt) };
    };
    const read = readResponse(site, sent, { tookMs: sent.tookMs ?? 0, polls: attempt, tries: this.tries });
    const { decoded, frame, judging } = read;
    const onEach = judge({ ...step, expect: [], keep: [] }, sent.response.status, sent.isOwn, judging);
    if (sent.refused || decoded.problem || onEach.some(({ passed }) => !passed)) {
      const pause = this.tolerated(attempt, sent);
      if (pause === undefined) return last();
      this.recordLook(attempt, sent, read, { seen: {}, done: 'no', pause });
      return this.wait(pause, {}, attempt);
    }
    this.failures = 0;
    const verdict = verdictOf(poll.until, poll.giveUpWhen, frame);
    const seen = this.states.add(this.conditions, frame, context);
    const failed = (problem: ProblemRecord) => this.failed(problem, attempt, sent, read);
    if ('problem' in verdict) return failed(verdict.problem);
    const passedMs = context.run.clock.monotonicMs() - this.started;
    const pause = verdict.done === 'no' ? this.pauseBehind(attempt, sent.response, passedMs) : undefined;
    this.recordLook(attempt, sent, read, { seen, done: verdict.done, pause });
    if (verdict.done === 'until') return last();
    if (verdict.done === 'give-up-when') return failed(gaveUp(poll.giveUpWhen!, attempt, passedMs));
    if (pause === undefined) return failed(deadline(poll, attempt, frame));
    return this.wait(pause, seen, attempt);
  }

  /** A poll without a response, or one that was not sent. */
  private async unanswered(sent: Exclude<Sent, Answered>, attempt: number): Promise<CallResult | undefined> {
    const pause = this.tolerated(attempt, sent);
    if (pause === undefined || !('broken' in sent))
      return { ...resultOfUnsent(this.site, sent)!, ...this.around(attempt) };
    this.site.context.run.recorder.record(brokenEvent(sent.x, sent.broken));
    return this.wait(pause, {}, attempt);
  }

  /** The pause behind a poll that failed; nothing where that is not tolerated, or no time is left. */
  private tolerated(attempt: number, sent: Sent): number | undefined {
    const { poll, site } = this;
    const { clock, stopping } = site.context.run;
    const isSent = 'broken' in sent || ('response' in sent && !sent.refused);
    if (!isSent || ++this.failures > poll.tolerate || stopping.aborted) return undefined;
    const response = 'response' in sent ? sent.response : undefined;
    return this.pauseBehind(attempt, response, clock.monotonicMs() - this.started);
  }

  private around(attempt: number) {
    const { numbers, waitedMs, tries } = this;
    return { x: numbers, waitedMs, tries, why: counted(attempt, 'poll') };
  }

  /** The look as it is recorded; of one that is not the last what the conditions read, and not its body. */
  private recordLook(
    attempt: number,
    { x, response }: Answered,
    { decoded, frame }: ReadResponse,
    { seen, done, pause }: Readonly<{ seen: Seen; done: 'until' | 'give-up-when' | 'no'; pause: number | undefined }>,
  ): void {
    const { context } = this.site;
    const { recorder } = context.run;
    if (pause !== undefined) recorder.record(answeredEvent(x, response, decoded, recorder, NOT_KEPT));
    recorder.record({
      type: 'attempted',
      step: context.address,
      attempt,
      seen,
      ...present({ progress: progressOf(this.poll.progress, frame) }),
      done: done === 'no' && pause === undefined ? 'deadline' : done,
    });
  }

  private failed(
    problem: ProblemRecord,
    attempt: number,
    { x, response }: Answered,
    { decoded, frame }: ReadResponse,
  ): CallResult {
    const { site, states, conditions } = this;
    const reply = replyOf(decoded, site.endpoint, frame);
    const seen = [...states.seen(conditions, frame, site.context)];
    return {
      before: newEvents(site, [answeredEvent(x, response, decoded, site.context.run.recorder)]),
      problem: { ...problem, ...(reply ? { reply } : {}), seen },
      exit: 1,
      ...this.around(attempt),
    };
  }

  /** Waits for the next look; a result where the run stops meanwhile. */
  private async wait(pause: number, seen: Seen, attempt: number): Promise<CallResult | undefined> {
    const { address, run } = this.site.context;
    const { clock, recorder, waits, stopping } = run;
    const wait = waits.begin('poll', address, { detail: stateIn(seen), until: clock.nowMs() + pause });
    await clock.sleep(pause, stopping);
    this.waitedMs += wait.milliseconds();
    recorder.record(...wait.end());
    return stopping.aborted ? { ...this.around(attempt), exit: 130, cut: true } : undefined;
  }

  private pauseBehind(attempt: number, response: HttpResponse | undefined, passedMs: number): number | undefined {
    const { poll, site } = this;
    return site.replayed ? undefined : pauseBehind(poll, attempt, response, passedMs, site.context);
  }
}

type ReadResponse = ReturnType<typeof readResponse>;
type Seen = ReturnType<States['add']>;

/**
 * The pause before the next look; nothing when there is to be none any more. The last one is shortened so that a look falls
 * on the deadline, but never below what the server asks for.
 */
function pauseBehind(
  { every, withinMs }: Poll,
  attempt: number,
  response: HttpResponse | undefined,
  passedMs: number,
  { host, run }: StepFrame,
): number | undefined {
  const asked = (response && askedToWait(response, run.clock)) ?? 0;
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
