import { wholeOf } from '../../diagnostics/source.ts';
import { didYouMean } from '../../diagnostics/suggest.ts';
import type { Rule } from './rule.ts';

/** Files are written inside the project, and no two steps write the same one. */
export const filesCanBeWritten: Rule = ({ reportIn, unwritable }) => {
  const writers = new Map<string, string>();
  return {
    step(step) {
      if (step.kind === 'write' && step.row && step.updateBy !== undefined) {
        const { source } = step.file;
        const columns = step.row.map(([name]) => name);
        const message = `The row has no column "${step.updateBy}" to update by`;
        const advice = didYouMean(step.updateBy, columns) ?? `It has ${columns.join(', ')}.`;
        if (!columns.includes(step.updateBy))
          reportIn(source, { code: 'no-such-column', range: wholeOf(source), message, advice });
      }
      const written = step.kind === 'write' ? step.file : step.kind === 'each' ? step.rejects : undefined;
      const [file] = written?.pieces ?? [];
      if (!written || written.pieces.length !== 1 || typeof file !== 'string') return;
      const problem = unwritable(file);
      if (problem) reportIn(written.source, { code: 'outside-project', range: wholeOf(written.source), ...problem });
    },
    call({ name, save }) {
      const [file] = save?.pieces ?? [];
      if (!save || save.pieces.length !== 1 || typeof file !== 'string') return;
      const { source } = save;
      const range = wholeOf(source);
      const problem = unwritable(file);
      if (problem) reportIn(source, { code: 'outside-project', range, ...problem });
      const other = writers.get(file);
      if (other === undefined) {
        writers.set(file, name);
        return;
      }
      const message = `${other} saves to ${file} already, and this would replace it`;
      reportIn(source, { code: 'saved-twice', range, message, advice: 'Give each a name of its own.' });
    },
  };
};
