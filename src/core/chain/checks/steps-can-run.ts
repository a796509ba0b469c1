import { ungrouped } from '../../expression/model.ts';
import type { Source } from '../../diagnostics/source.ts';
import type { Step } from '../model.ts';
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

/** A text of a step that shows where it is. */
function sourceOf(step: Step): Source | undefined {
  switch (step.kind) {
    case 'call':
    case 'listen':
    case 'receive':
      return step.nameSource;
    case 'say':
    case 'stop':
      return step.text.source;
    case 'let':
    case 'remember':
      return step.names[0]?.value.source;
    case 'if':
      return step.condition.source;
    case 'wait':
      return 'for' in step ? step.for.source : step.to.source;
    case 'each':
      return step.head;
    case 'chain':
      return step.file;
    case 'write':
      return step.file.source;
    case 'repeat':
    case 'parallel':
      return step.steps[0] && sourceOf(step.steps[0]);
    case 'broken':
      return undefined;
  }
}
