import type { RepeatStep } from '../../chain/model.ts';
import { stepKey } from '../../chain/step-key.ts';
import { MARKED, secretIn } from '../../expression/secrecy.ts';
import { diagnosticIn, wholeOf, type Source } from '../../diagnostics/source.ts';
import type { ProblemRecord } from '../../journal/events.ts';
import { counted } from '../../value/show.ts';
import type { Value } from '../../value/value.ts';
import { valueNeeded } from '../condition.ts';
import { plainFrame, type RunContext } from '../context.ts';
import { States, verdictOf } from '../attempts.ts';
import { pauseMs } from '../pause.ts';
import { problemRecord } from '../places.ts';
import { Scope } from '../scope.ts';
import { SecretNames } from '../secret-names.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';
import { worse } from '../worse.ts';

/** Runs its steps in rounds, until a condition on what they keep holds. */
export const runRepeat: StepRunner<RepeatStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const number = address.slice(0, address.indexOf('/'));
  const total = { exit: 0, calls: 0, expects: 0, passed: 0 };
  let carried = new Map<string, Value>();
  for (const { name, value } of step.carry) {
    const needed = valueNeeded(
      value,
      plainFrame(context),
      'Write null for a name that has no value before the first round.',
    );
    if ('problem' in needed) return { ...end({ problem: needed.problem }), stops: true };
    carried.set(name, needed.value);
    const secret = value.tree && secretIn(value.tree, context.secretNames);
    if (secret !== undefined) context.secretNames.set(name, secret === MARKED ? name : secret);
  }
  const states = new States();
  const started = context.clock.monotonicMs();
  const fail = (problem: ProblemRecord, inner: RunContext) => {
    const seen = [...states.seen([step.giveUpWhen, step.until], plainFrame(inner), inner)];
    return {
      ...total,
      ...end({ problem: { ...problem, seen } }),
      ...total,
      exit: worse(total.exit, 1),
      stops: true as const,
    };
  };
  const key = context.keyPrefix + stepKey(context.chain, step);
  context.recorder.record({ type: 'opened', step: address, key, kind: 'repeat', text: `repeat ${step.name}` });
  for (let round = 1; ; round++) {
    const scope = new Scope(context.scope);
    for (const [name, value] of carried) scope.bind(name, value, address);
    scope.bind('loop', { number: round });
    const secretNames = new SecretNames(context.secretNames);
    const asked = { retryAfterMs: 0 };
    const inner: RunContext = {
      ...context,
      scope,
      secretNames,
      round: asked,
      keyPrefix: `${key}{${round}}/`,
    };
    const inside = `${number}#${round}`;
    context.recorder.record({ type: 'opened', step: inside, key: inner.keyPrefix, kind: 'round', round });
    const outcome = await context.runSteps(step.steps, `${inside}.`, inner);
    total.exit = worse(total.exit, outcome.exit);
    total.calls += outcome.calls;
    total.expects += outcome.expects;
    total.passed += outcome.passed;
    if (outcome.stops) {
      const how = outcome.exit === 130 || outcome.halted ? 'cut' : outcome.exit === 0 ? 'passed' : 'failed';
      end({ outcome: how, quiet: true });
      return { ...outcome, ...total, outcome: how, stops: true };
    }
    // What was secret in a round stays so behind it, and a carried name that was so once is so in every round.
    for (const [name, secret] of secretNames.entries()) context.secretNames.set(name, secret);
    carried = new Map(step.carry.map(({ name }) => [name, scope.get(name)!.value as Value]));
    const frame = plainFrame(inner);
    const seen = states.add([step.giveUpWhen, step.until], frame, inner);
    const verdict = verdictOf(step.until, step.giveUpWhen, frame);
    const done = 'problem' in verdict ? 'no' : verdict.done;
    context.recorder.record({ type: 'attempted', step: address, attempt: round, seen, done });
    if ('problem' in verdict) return fail(verdict.problem, inner);
    if (done === 'give-up-when')
      return fail(problemAt(step.giveUpWhen!.source, 'gave-up', `give-up-when became true in round ${round}`), inner);
    if (done === 'until') {
      for (const [name, bound] of scope.own()) if (name !== 'loop') context.scope.bind(name, bound.value, bound.from);
      return { ...end({ why: counted(round, 'round') }), ...total, outcome: 'passed', goesOn: true };
    }
    const place = (step.until ?? step.giveUpWhen)?.source;
    if (round >= step.maxRounds)
      return fail(
        problemAt(
          place,
          'too-many-rounds',
          `The limit of ${counted(round, 'round')} was reached, and the condition is still false`,
        ),
        inner,
      );
    const passed = context.clock.monotonicMs() - started;
    const wait = Math.max(asked.retryAfterMs, step.every ? pauseMs(step.every, round, context.host) : 0);
    if (step.withinMs !== undefined && passed + wait > step.withinMs)
      return fail(
        problemAt(place, 'deadline-passed', `The time limit was reached after ${counted(round, 'round')}`),
        inner,
      );
    if (wait > 0) {
      const waiting = context.waits.begin('repeat', address, { until: context.clock.nowMs() + wait });
      await context.clock.sleep(wait, context.stopping);
      context.recorder.record(...waiting.end());
    }
  }
};

function problemAt(
  source: Source | undefined,
  code: 'gave-up' | 'too-many-rounds' | 'deadline-passed',
  message: string,
): ProblemRecord {
  if (!source) return { code, message };
  return problemRecord(diagnosticIn(source, { code, range: wholeOf(source), message }));
}
