import type { RepeatStep } from '../../chain/model.ts';
import { diagnosticIn, wholeOf, type Source } from '../../diagnostics/source.ts';
import { evaluate } from '../../expression/evaluate.ts';
import { namesRead } from '../../expression/names-read.ts';
import type { ProblemRecord, Stored } from '../../journal/events.ts';
import type { Expression } from '../../schema/leaves.ts';
import { toStored } from '../../journal/stored.ts';
import { counted, showValue } from '../../value/show.ts';
import { Mask, type Value } from '../../value/value.ts';
import { valueNeeded } from '../condition.ts';
import { plainFrame, type RunContext } from '../context.ts';
import { pauseMs } from '../pause.ts';
import { problemRecord } from '../places.ts';
import { Scope } from '../scope.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';
import { worse } from './list.ts';

/** Runs its steps in rounds, until a condition on what they keep holds. */
export const runRepeat: StepRunner<RepeatStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const number = address.slice(0, address.indexOf('/'));
  const total = { exit: 0, calls: 0, expects: 0, held: 0 };
  let carried = new Map<string, Value>();
  for (const { name, value } of step.carry) {
    const needed = valueNeeded(
      value,
      plainFrame(context),
      'Write null for a name that has no value before the first round.',
    );
    if ('problem' in needed) return { ...end({ problem: needed.problem }), stops: true };
    carried.set(name, needed.value);
  }
  const states: string[] = [];
  const started = context.clock.monotonicMs();
  const fail = (problem: ProblemRecord) => {
    const said = states.length > 0 ? `${problem.message}; it was ${states.join(', ')}` : problem.message;
    return {
      ...total,
      ...end({ problem: { ...problem, message: said } }),
      ...total,
      exit: worse(total.exit, 1),
      stops: true as const,
    };
  };
  for (let round = 1; ; round++) {
    const scope = new Scope(context.scope);
    for (const [name, value] of carried) scope.bind(name, value, address);
    scope.bind('index', round - 1);
    scope.bind('number', round);
    const inner: RunContext = { ...context, scope, keyPrefix: `${context.keyPrefix}repeat:${step.name}{${round}}/` };
    const inside = `${number}#${round}`;
    context.recorder.record({ type: 'opened', step: inside, key: inner.keyPrefix, kind: 'round', round });
    const outcome = await context.runSteps(step.steps, `${inside}.`, inner);
    total.exit = worse(total.exit, outcome.exit);
    total.calls += outcome.calls;
    total.expects += outcome.expects;
    total.held += outcome.held;
    if (outcome.stops) {
      const how = outcome.exit === 130 ? 'cut' : outcome.exit === 0 ? 'held' : 'failed';
      end({ outcome: how, quiet: true });
      return { ...outcome, ...total, outcome: how, stops: true };
    }
    carried = new Map(step.carry.map(({ name }) => [name, scope.get(name)!.value as Value]));
    const seen = seenBy(step, inner);
    if (Object.keys(seen).length > 0) states.push(Object.values(seen).map(showStored).join(' '));
    const done = decided(step, inner);
    context.recorder.record({
      type: 'looked',
      step: address,
      look: round,
      seen,
      done: 'problem' in done ? 'no' : done.done,
    });
    if ('problem' in done) return fail(done.problem);
    if (done.done === 'give-up-when')
      return fail(
        problemAt(
          step.giveUpWhen!.source,
          'gave-up',
          `It gave up in round ${round}: ${step.giveUpWhen!.source.text.trim()}`,
        ),
      );
    if (done.done === 'until') {
      for (const [name, bound] of scope.own())
        if (name !== 'index' && name !== 'number') context.scope.bind(name, bound.value, bound.from);
      return { ...end({ why: counted(round, 'round') }), ...total, outcome: 'held', goesOn: true };
    }
    const place = (step.until ?? step.giveUpWhen)?.source;
    if (round >= step.atMost)
      return fail(
        problemAt(
          place,
          'too-many-rounds',
          `There were ${counted(round, 'round')}, and the condition does not hold yet`,
        ),
      );
    const passed = context.clock.monotonicMs() - started;
    const wait = step.every ? pauseMs(step.every, round, context.host) : 0;
    if (step.withinMs !== undefined && passed + wait > step.withinMs)
      return fail(problemAt(place, 'deadline-passed', `The time was over after ${counted(round, 'round')}`));
    if (wait > 0) {
      await context.clock.sleep(wait, context.stopping);
      context.recorder.record({ type: 'waited', step: address, why: 'repeat', ms: Math.round(wait) });
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

type Decided = Readonly<{ done: 'no' | 'until' | 'give-up-when' }> | Readonly<{ problem: ProblemRecord }>;

/** Nothing means not yet; what is no condition is an error. */
function decided({ until, giveUpWhen }: RepeatStep, context: RunContext): Decided {
  const holds = (condition: Expression | undefined): boolean | ProblemRecord => {
    if (!condition) return false;
    const { source, tree } = condition;
    const { value, problem } = evaluate(tree!, plainFrame(context));
    if (problem) return problemRecord(diagnosticIn(source, problem));
    if (value === undefined || typeof value === 'boolean') return value === true;
    const message = `A condition is true or false, and this is ${showValue(value)}`;
    return problemRecord(diagnosticIn(source, { code: 'not-a-condition', range: wholeOf(source), message }));
  };
  const given = holds(giveUpWhen);
  if (typeof given !== 'boolean') return { problem: given };
  if (given) return { done: 'give-up-when' };
  const ended = holds(until);
  if (typeof ended !== 'boolean') return { problem: ended };
  return { done: ended ? 'until' : 'no' };
}

/** The values of the names that the conditions read. */
function seenBy({ until, giveUpWhen }: RepeatStep, { scope, secretNames }: RunContext): Record<string, Stored> {
  const names = new Set([until, giveUpWhen].flatMap((each) => (each?.tree ? namesRead(each.tree) : [])));
  return Object.fromEntries(
    [...names].flatMap((name): [string, Stored][] => {
      const bound = scope.get(name);
      const secret = secretNames.get(name);
      return bound ? [[name, toStored(secret === undefined ? bound.value : new Mask(secret))]] : [];
    }),
  );
}

function showStored(stored: Stored): string {
  return 'json' in stored ? showValue(stored.json, 40) : 'text' in stored ? stored.text : 'something';
}
