import { wholeOf } from '../../diagnostics/source.ts';
import { didYouMean } from '../../diagnostics/suggest.ts';
import type { Step } from '../model.ts';
import { plainTextOf } from '../../template/template.ts';
import { allSteps, partsOf } from '../steps/inside.ts';
import type { Rule, RuleContext } from './rule.ts';

/** Steps at the same time do not both write the whole of one file: nobody could say whose rows are left. */
function reportWrittenTwice(steps: readonly Step[], reportIn: RuleContext['reportIn']): void {
  const writers = new Map<string, number>();
  for (const [i, step] of steps.entries()) {
    for (const each of allSteps([step])) {
      if (each.kind !== 'write' || !each.rows || each.updateBy !== undefined) continue;
      const file = plainTextOf(each.file);
      if (file === undefined) continue;
      const other = writers.get(file);
      writers.set(file, other ?? i);
      if (other === undefined || other === i) continue;
      const { source } = each.file;
      const message = `Another step writes ${file} at the same time, so the order of writing is undefined`;
      const advice = 'Use a file for each step, or add update-by.';
      reportIn(source, { code: 'duplicate-file', range: wholeOf(source), message, advice });
    }
  }
}

/** Files are written inside the project, and no two steps write the same one. */
export const filesCanBeWritten: Rule = ({ reportIn, unwritable }) => {
  const writers = new Map<string, string>();
  return {
    step(step) {
      if (step.kind === 'parallel') reportWrittenTwice(step.steps, reportIn);
      if (step.kind === 'write' && step.row && step.updateBy !== undefined) {
        const { source } = step.file;
        const columns = step.row.map(([name]) => name);
        const message = `The row has no column "${step.updateBy}" to update by`;
        const advice = didYouMean(step.updateBy, columns) ?? `Its columns are ${columns.join(', ')}.`;
        if (!columns.includes(step.updateBy))
          reportIn(source, { code: 'no-such-column', range: wholeOf(source), message, advice });
      }
      for (const part of partsOf(step)) {
        if (part.sort !== 'text' || part.use !== 'file-written') continue;
        const file = plainTextOf(part.text);
        const problem = file === undefined ? undefined : unwritable(file);
        const { source } = part.text;
        if (problem) reportIn(source, { code: 'outside-project', range: wholeOf(source), ...problem });
      }
    },
    call({ name, save }) {
      const file = save && plainTextOf(save);
      if (!save || file === undefined) return;
      const { source } = save;
      const range = wholeOf(source);
      const other = writers.get(file);
      if (other === undefined) {
        writers.set(file, name);
        return;
      }
      const message = `${other} saves to ${file} as well, and this would replace it`;
      reportIn(source, { code: 'duplicate-file', range, message, advice: 'Use another file name.' });
    },
  };
};
