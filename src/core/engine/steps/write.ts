import type { ProblemRecord } from '../../journal/records.ts';
import type { WriteStep } from '../../chain/model.ts';
import type { Source } from '../../diagnostics/source.ts';
import { fillText, fillValue } from '../../template/fill.ts';
import { counted, showValue } from '../../value/show.ts';
import { isList, isObject, SpilledList, Mask, piecesOf, type Items, type Value } from '../../value/value.ts';
import { valueNeeded } from '../condition.ts';
import { plainFrame } from '../frames.ts';
import type { StepFrame } from '../frame.ts';
import { rowsFileAt } from '../rows-file.ts';
import { RowFault } from '../files/row-fault.ts';
import { rowFormatOf } from '../../chain/row-format.ts';
import { TEXT_COLUMN } from '../files/text-rows.ts';
import { plainTextOf } from '../../template/template.ts';
import { problemAt } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { secretIn } from '../../expression/secrecy.ts';
import type { StepRunner } from './definition.ts';

/** Writes a row, or all rows of a list, into a file. */
export const runWrite: StepRunner<WriteStep> = async (step, context, end) => {
  const { source } = step.file;
  const file = rowsFileAt(step.file, context);
  if ('problem' in file) return end(file);
  const rows = rowsOf(step, context);
  if ('problem' in rows) return end(rows);
  const isChosen = plainTextOf(step.file) === undefined && !step.replace;
  const form = { ...step, isText: step.text !== undefined, isChosen };
  // A file that is no UTF-8 is a table that the chain takes, or it cannot be known what it is.
  const charset = context.chain.inputs.find(({ table }) => table.charset !== undefined)?.table.charset;
  try {
    for await (const piece of piecesOf(
      rowFormatOf(file.path) === 'json' && !step.text ? await held(rows.rows) : rows.rows,
    )) {
      if (!piece.every(isObject)) {
        const other = showValue(
          piece.find((row) => !isObject(row)),
          60,
        );
        throw new RowFault('not-an-array', `rows needs an array of objects, and one item is ${other}`);
      }
      context.run.writtenFiles.write(file, context.address, form, charset, piece);
    }
  } catch (error) {
    if (!(error instanceof RowFault)) throw error;
    return end({ problem: problemOf(source, error) });
  }
  const what = step.text ? 'line' : 'row';
  return end({ why: `${file.path}   ${counted(rows.rows.length, what)}` });
};

function problemOf(source: Source, { code, message, advice }: RowFault): ProblemRecord {
  return problemAt(source, code, message, advice);
}

/** A file of JSON is one list, and is written whole. */
async function held(rows: Items): Promise<readonly Value[]> {
  const all: Value[] = [];
  for await (const piece of piecesOf(rows)) all.push(...piece);
  return all;
}

type Rows = Readonly<{ rows: Items }> | Readonly<{ problem: ProblemRecord }>;

/** The rows as they are written: secrets masked, unless the step reveals them. */
function rowsOf(step: WriteStep, context: StepFrame): Rows {
  const { real, masked } = resolversFor(context);
  const resolver = step.reveal ? real : masked;
  if (step.text) return { rows: [{ [TEXT_COLUMN]: fillText(step.text, resolver) }] };
  if (step.row) {
    const cells = step.row.map(([name, value]): [string, Value] => {
      const cell = fillValue(value, resolver);
      return [name, cell === 'left-out' ? null : cell.value];
    });
    return { rows: [Object.fromEntries(cells)] };
  }
  const { source, tree } = step.rows!;
  const needed = valueNeeded(step.rows!, plainFrame(context), 'Write x ?? [] for rows that may be missing.');
  if ('problem' in needed) return needed;
  const secret = step.reveal ? undefined : secretIn(tree!, context.secretNames)?.name;
  const { value } = needed;
  if (value instanceof SpilledList && secret === undefined) return { rows: value };
  if (!isList(value) || !value.every(isObject)) {
    const message = `rows needs an array of objects, not ${showValue(value, 60)}`;
    return { problem: problemAt(source, 'not-an-array', message) };
  }
  if (secret === undefined) return { rows: value };
  return { rows: value.map((row) => Object.fromEntries(Object.keys(row).map((name) => [name, new Mask(secret)]))) };
}
