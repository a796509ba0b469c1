import { diagnosticIn, wholeOf } from '../diagnostics/source.ts';
import type { ProblemRecord } from '../journal/events.ts';
import type { RowsFile } from '../ports.ts';
import { fillFileName } from '../template/fill.ts';
import type { TextTemplate } from '../template/template.ts';
import type { RunContext } from './context.ts';
import { filling } from './fill.ts';
import { problemRecord } from './places.ts';
import { resolversFor } from './resolvers.ts';

/** The file of rows that a text names, inside the project; or why there can be none. */
export function rowsFileAt(
  template: TextTemplate,
  context: RunContext,
): RowsFile | Readonly<{ problem: ProblemRecord }> {
  const { source } = template;
  const named = filling(() => fillFileName(template, resolversFor(context).real));
  if ('diagnostic' in named) return { problem: problemRecord(named.diagnostic) };
  const file = context.runHost.rowsFile(named.value);
  if (!('message' in file)) return file;
  return { problem: problemRecord(diagnosticIn(source, { code: 'outside-project', range: wholeOf(source), ...file })) };
}
