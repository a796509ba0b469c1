import { type Totals } from '../outcome.ts';
import type { ProblemRecord } from '../../journal/records.ts';
import type { RepeatStep } from '../../chain/model.ts';
import { secretIn } from '../../expression/secrecy.ts';
import { insideOfStep, itemAddress } from '../../journal/address.ts';
import { counted } from '../../value/show.ts';
import type { Value } from '../../value/value.ts';
import { States, verdictOf } from '../attempts.ts';
import { valueNeeded } from '../condition.ts';
import type { StepFrame } from '../frame.ts';
import { plainFrame } from '../frames.ts';
import { added, NO_TOTALS, outcomeOf } from '../outcome.ts';
import { pauseMs } from '../pause.ts';
import { problemAt } from '../places.ts';
import { Scope } from '../scope.ts';
import { SecretNames } from '../secret-names.ts';
import type { StepRunner } from './definition.ts';

/** Runs its steps in rounds, until a condition on what they keep holds. */
export const runRepeat: StepRunner<RepeatStep> = async (step, context, end) => {
  const { address, key, run } = context;
  const first = carriedAtFirst(step, context);
  if ('problem' in first) return end(first);
  let carried = first.carried;
  let total: Totals = NO_TOTALS;
  const states = new States();
  const conditions = [step.giveUpWhen, step.until];
  const started = run.clock.monotonicMs();
  run.recorder.record({ type: 'opened', step: address, key, kind: 'repeat', text: `repeat ${step.name}` });
  for (let round = 1; ; round++) {
    const asked = { retryAfterMs: 0 };
    const inner = frameOfRound(round, carried, asked, context);
    const inside = itemAddress(address, round);
    run.recorder.record({ type: 'opened', step: inside, key: inner.keyPrefix, kind: 'round', round });
    const outcome = await run.runSteps(step.steps, insideOfStep(inside), inner);
    total = added(total, outcome);
    if (outcome.stops) {
      const how = outcomeOf(outcome);
      end({ outcome: how, quiet: true });
      return { ...outcome, ...total, outcome: how, stops: true };
    }
    // What was secret in a round stays so behind it, and a carried name that was so once is so in every round.
    for (const [name, secrecy] of inner.secretNames.entries()) context.secretNames.set(name, secrecy);
    carried = new Map(step.carry.map(({ name }) => [name, inner.scope.get(name)!.value as Value]));
    const frame = plainFrame(inner);
    const seen = states.add(conditions, frame, inner);
    const verdict = verdictOf(step.until, step.giveUpWhen, frame);
    const done = 'problem' in verdict ? 'no' : verdict.done;
    run.recorder.record({ type: 'attempted', step: address, attempt: round, seen, done });
    if (done === 'until') {
      inner.scope.handOn(context.scope, OF_ROUND);
      return { ...end({ why: counted(round, 'round') }), ...total, outcome: 'passed', goesOn: true };
    }
    const wait = Math.max(asked.retryAfterMs, step.every ? pauseMs(step.every, round, context.host) : 0);
    const passedMs = run.clock.monotonicMs() - started + wait;
    const problem = 'problem' in verdict ? verdict.problem : noFurtherRound(step, round, done, passedMs);
    if (problem) {
      const ended = end({ problem: { ...problem, seen: [...states.seen(conditions, plainFrame(inner), inner)] } });
      return { ...ended, ...added(total, { ...NO_TOTALS, exit: 1 }), stops: true };
    }
    if (wait > 0) {
      const waiting = run.waits.begin('repeat', address, { until: run.clock.nowMs() + wait });
      await run.clock.sleep(wait, run.stopping);
      run.recorder.record(...waiting.end());
    }
  }
};

/** Names that end with their round. */
const OF_ROUND: ReadonlySet<string> = new Set(['loop']);

type Carried = ReadonlyMap<string, Value>;

/** What is carried into the first round. */
function carriedAtFirst(
  { carry }: RepeatStep,
  context: StepFrame,
): Readonly<{ carried: Carried }> | Readonly<{ problem: ProblemRecord }> {
  const carried = new Map<string, Value>();
  for (const { name, value } of carry) {
    const advice = 'Write null for a name that has no value before the first round.';
    const needed = valueNeeded(value, plainFrame(context), advice);
    if ('problem' in needed) return needed;
    carried.set(name, needed.value);
    if (value.tree) context.secretNames.set(name, secretIn(value.tree, context.secretNames));
  }
  return { carried };
}

/** A round has a scope of its own, in which the carried names are. */
function frameOfRound(
  round: number,
  carried: Carried,
  asked: NonNullable<StepFrame['round']>,
  context: StepFrame,
): StepFrame {
  const scope = new Scope(context.scope);
  for (const [name, value] of carried) scope.bind(name, value, context.address);
  scope.bind('loop', { number: round });
  const secretNames = new SecretNames(context.secretNames);
  return { ...context, scope, secretNames, round: asked, keyPrefix: `${context.key}{${round}}/` };
}

/** Why there is no further round, if there is none; `passedMs` takes in the pause before it. */
function noFurtherRound(
  { until, giveUpWhen, maxRounds, withinMs }: RepeatStep,
  round: number,
  done: 'no' | 'give-up-when',
  passedMs: number,
): ProblemRecord | undefined {
  const source = (until ?? giveUpWhen)?.source;
  const at = (code: 'too-many-rounds' | 'deadline-passed', message: string): ProblemRecord =>
    source ? problemAt(source, code, message) : { code, message };
  if (done === 'give-up-when')
    return problemAt(giveUpWhen!.source, 'gave-up', `give-up-when became true in round ${round}`);
  const rounds = counted(round, 'round');
  if (round >= maxRounds)
    return at('too-many-rounds', `The limit of ${rounds} was reached, and the condition is still false`);
  if (withinMs !== undefined && passedMs > withinMs)
    return at('deadline-passed', `The time limit was reached after ${rounds}`);
  return undefined;
}
