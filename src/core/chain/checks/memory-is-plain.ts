import { secretIn } from '../../expression/secrecy.ts';
import { wholeOf } from '../../diagnostics/source.ts';
import type { Chain } from '../model.ts';
import { allPartsOf, allSteps } from '../steps/inside.ts';
import type { Rule } from './rule.ts';

/** What is remembered is no secret, and is said once in a run. */
export const memoryIsPlain: Rule = ({ chain, reportIn }) => {
  const inside = stepsInLoops(chain);
  return {
    step(step) {
      if (step.kind !== 'remember' || !inside.has(step)) return;
      const [first] = step.names;
      if (!first) return;
      const { source } = first.value;
      const message = 'This step is in a loop, and a name can be remembered only once';
      const advice = 'Gather the values, and remember them after the loop.';
      reportIn(source, { code: 'remember-in-loop', range: wholeOf(source), message, advice });
    },
    expression(tree, source, { key, secretNames }) {
      if (key !== 'remember' || secretIn(tree, secretNames) === undefined) return;
      const message = 'A secret cannot be remembered in a file';
      reportIn(source, {
        code: 'secret-remembered',
        range: tree.range,
        message,
        advice: 'Sign in again in the next run.',
      });
    },
  };
};

function stepsInLoops({ steps }: Chain): ReadonlySet<unknown> {
  const repeated = allSteps(steps)
    .flatMap(allPartsOf)
    .flatMap((part) =>
      part.sort === 'scope' ? part.parts : part.sort === 'steps' && part.order === 'together' ? [part] : [],
    );
  return new Set(repeated.flatMap((part) => (part.sort === 'steps' ? allSteps(part.steps) : [])));
}
