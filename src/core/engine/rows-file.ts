import type { ProblemRecord } from '../journal/records.ts';
import type { RowsFile } from '../ports.ts';
import { fillFileName } from '../template/fill.ts';
import type { TextTemplate } from '../template/template.ts';
import type { StepFrame } from './frame.ts';
import { problemAt } from './places.ts';
import { resolversFor } from './resolvers.ts';

/** The file of rows that a text names, inside the project; or why there can be none. */
export function rowsFileAt(
  template: TextTemplate,
  context: StepFrame,
): RowsFile | Readonly<{ problem: ProblemRecord }> {
  const { source } = template;
  const file = context.runHost.rowsFile(fillFileName(template, resolversFor(context).real));
  if (!('message' in file)) return file;
  return { problem: problemAt(source, file.code ?? 'outside-project', file.message, file.advice) };
}
