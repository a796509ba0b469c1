import type { Chain } from '../core/chain/model.ts';
import { allSteps } from '../core/chain/steps/inside.ts';
import type { Source } from '../core/diagnostics/source.ts';
import { didYouMean } from '../core/diagnostics/suggest.ts';
import type { Goal } from '../core/engine/settings.ts';
import { loopsAround } from '../core/engine/goal.ts';
import { counted } from '../core/value/show.ts';
import type { Caller } from './caller.ts';
import { CommandError } from './command-error.ts';

/** `5`, or `5.2` in nested loops; nothing for what is none. */
export function itemNumbers(said: string): readonly number[] | undefined {
  return /^[1-9]\d*(\.[1-9]\d*)*$/.test(said) ? said.split('.').map(Number) : undefined;
}

/**
 * A goal that can be reached: its call is in the chain, and a call that is sent alone is that of one item, which is asked for
 * where it is not said.
 */
export async function reachableGoal(
  goal: Goal,
  { steps, name }: Chain,
  chainAt: (file: Source) => Chain | undefined,
  caller: Caller,
): Promise<Goal> {
  const { call, items, isAlone } = goal;
  const loops = loopsAround(steps, call, chainAt);
  if (!loops) {
    const calls = allSteps(steps).flatMap((step) => (step.kind === 'call' ? [step.name] : []));
    const advice = didYouMean(call, calls) ?? `Its calls are ${calls.join(', ')}.`;
    throw new CommandError('call-not-found', `The chain ${name} has no call "${call}" in its steps`, advice);
  }
  if (!isAlone) return goal;
  const wanted = loops.findLastIndex(({ kind }) => kind === 'each') + 1;
  if (items.length > loops.length)
    throw new CommandError(
      'invalid-option',
      `--item ${items.join('.')} goes deeper than ${call}, which is in ${counted(loops.length, 'loop')}`,
    );
  if (items.length >= wanted) return goal;
  const heads = loops.slice(0, wanted).map((loop) => (loop.kind === 'each' ? loop.head.text.trim() : loop.name));
  const example = heads.map(() => 1).join('.');
  if (!caller.mayAsk) {
    const message = `${call} is in a loop (${heads.join(', in ')}), and no item was specified`;
    throw new CommandError('needs-terminal', message, `Example: --item ${example}.`);
  }
  const { ask } = await import('../adapters/prompts.ts');
  const problem = (answer: string) =>
    itemNumbers(answer)?.length === wanted ? undefined : `Enter a number such as ${example}.`;
  const message = `Which item (${heads.join(', in ')}), such as ${example}?`;
  const answer = await ask({ message, choices: undefined, secret: false, problem }, caller.exit);
  return { ...goal, items: itemNumbers(answer)! };
}
