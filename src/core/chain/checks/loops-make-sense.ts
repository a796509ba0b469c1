import { namesRead } from '../../expression/names-read.ts';
import { articled } from '../../value/show.ts';
import { typeOfTree } from '../value-types.ts';
import { wholeOf } from '../../diagnostics/source.ts';
import type { RepeatStep, Step } from '../model.ts';
import { allSteps, bindingsOf, insideOf } from '../steps/inside.ts';
import type { Place } from '../place.ts';
import type { Rule, RuleContext } from './rule.ts';

/** A loop goes over a list, and rounds can come to an end. */
export const loopsMakeSense: Rule = (context) => ({
  step(step, place) {
    if (step.kind === 'each') checkList(step, place, context);
    if (step.kind === 'repeat') checkRounds(step, context);
  },
  end() {
    checkDepth(context.chain.steps, 0, context);
  },
});

/** Loops inside of loops. */
const MAX_DEPTH = 16;

function checkDepth(steps: readonly Step[], depth: number, context: RuleContext): void {
  for (const step of steps) {
    const isLoop = step.kind === 'each' || step.kind === 'repeat';
    if (isLoop && depth === MAX_DEPTH) {
      const { nameSource: source } = step;
      const message = `Loops can be nested ${MAX_DEPTH} levels deep at most`;
      context.reportIn(source, { code: 'over-limit', range: wholeOf(source), message });
    } else for (const inside of insideOf(step)) checkDepth(inside, depth + (isLoop ? 1 : 0), context);
  }
}

function checkList({ list }: Extract<Step, { kind: 'each' }>, { names }: Place, { reportIn }: RuleContext): void {
  const kind = typeOfTree(list.tree, names, false);
  if (!list.tree || kind === undefined || kind === 'array') return;
  const message = `A loop needs an array, and ${list.source.text.trim()} is ${articled(kind)}`;
  const advice = kind === 'object' ? `To loop over its members: entries(${list.source.text.trim()}).` : undefined;
  reportIn(list.source, { code: 'not-an-array', range: list.tree.range, message, ...(advice ? { advice } : {}) });
}

function checkRounds({ steps, until, giveUpWhen, carry }: RepeatStep, { reportIn, reportAt }: RuleContext): void {
  const bound = new Set(
    allSteps(steps)
      .flatMap(bindingsOf)
      .map(({ name }) => name),
  );
  for (const { name, nameRange, file } of carry) {
    if (bound.has(name)) continue;
    const advice = 'Keep it in one of the steps, or define it before the repeat.';
    reportAt(file, {
      code: 'never-carried',
      range: nameRange,
      message: `No step of the loop binds "${name}"`,
      advice,
    });
  }
  for (const condition of [until, giveUpWhen]) {
    if (!condition?.tree || namesRead(condition.tree).some((name) => bound.has(name) || name === 'loop')) continue;
    const message = 'This reads nothing that the steps of a round bind, so no round can change it';
    const advice = 'Keep the value that it depends on in a step of the loop.';
    reportIn(condition.source, { code: 'poll-cannot-end', range: condition.tree.range, message, advice });
  }
}
