import { sourceOf } from '../steps/inside.ts';
import { ungrouped } from '../../expression/model.ts';
import type { Rule } from './rule.ts';

/** Every step can run: its condition is not simply false, and it does not stand behind a `stop`. */
export const stepsCanRun: Rule = ({ reportIn }) => ({
  step(step, _place, before) {
    const { when } = step;
    const condition = when?.tree && ungrouped(when.tree);
    if (when && condition?.kind === 'literal' && condition.value === false) {
      const message = 'This step never runs';
      const advice = 'Remove the step, or write the condition under which it should run.';
      reportIn(when.source, { code: 'never-runs', range: condition.range, message, advice });
    }
    if (before?.kind !== 'stop' || before.when) return;
    const source = sourceOf(step);
    if (!source) return;
    const advice = 'Move the stop after it, or add when to the stop.';
    reportIn(source, {
      code: 'never-runs',
      range: [0, source.text.length],
      message: 'This step never runs: a stop precedes it',
      advice,
    });
  },
});
