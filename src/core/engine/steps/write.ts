import type { WriteStep } from '../../chain/model.ts';
import { diagnosticIn, wholeOf, type Source } from '../../diagnostics/source.ts';
import type { ProblemRecord } from '../../journal/events.ts';
import { fillValue } from '../../template/fill.ts';
import { counted, showValue } from '../../value/show.ts';
import { isList, isObject, LongList, Mask, piecesOf, type Items, type Value } from '../../value/value.ts';
import { valueNeeded } from '../condition.ts';
import { plainFrame, type RunContext } from '../context.ts';
import { filling } from '../fill.ts';
import { rowsFileAt } from '../rows-file.ts';
import { RowFault } from '../files/row-fault.ts';
import { rowKindOf } from '../files/rows-form.ts';
import { problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { secretIn } from '../../expression/secrecy.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Writes a row, or all rows of a list, into a file. */
export const runWrite: StepRunner<WriteStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const { source } = step.file;
  const file = rowsFileAt(step.file, context);
  if ('problem' in file) return { ...end({ problem: file.problem }), stops: true };
  const rows = rowsOf(step, context);
  if ('problem' in rows) return { ...end({ problem: rows.problem }), stops: true };
  // A file that is no UTF-8 is a table that the chain takes, or it cannot be known what it is.
  const charset = context.chain.inputs.find(({ table }) => table.charset !== undefined)?.table.charset;
  try {
    for await (const piece of piecesOf(rowKindOf(file.path) === 'json' ? await held(rows.rows) : rows.rows)) {
      if (!piece.every(isObject)) {
        const other = showValue(
          piece.find((row) => !isObject(row)),
          60,
        );
        throw new RowFault('not-an-array', `rows needs an array of objects, and one item is ${other}`);
      }
      context.writtenFiles.write(file, address, step, charset, piece);
    }
  } catch (error) {
    if (!(error instanceof RowFault)) throw error;
    return { ...end({ problem: problemAt(source, error) }), stops: true };
  }
  return end({ why: `${file.path}   ${counted(rows.rows.length, 'row')}` });
};

function problemAt(source: Source, { code, message, advice }: RowFault): ProblemRecord {
  return problemRecord(diagnosticIn(source, { code, range: wholeOf(source), message, ...(advice ? { advice } : {}) }));
}

/** A file of JSON is one list, and is written whole. */
async function held(rows: Items): Promise<readonly Value[]> {
  const all: Value[] = [];
  for await (const piece of piecesOf(rows)) all.push(...piece);
  return all;
}

type Rows = Readonly<{ rows: Items }> | Readonly<{ problem: ProblemRecord }>;

/** The rows as they are written: secrets masked, unless the step reveals them. */
function rowsOf(step: WriteStep, context: RunContext): Rows {
  if (step.row) {
    const { real, masked } = resolversFor(context);
    const resolver = step.reveal ? real : masked;
    const filled = filling(() =>
      Object.fromEntries(
        step.row!.map(([name, value]): [string, Value] => {
          const cell = fillValue(value, resolver);
          return [name, cell === 'left-out' ? null : cell.value];
        }),
      ),
    );
    return 'diagnostic' in filled ? { problem: problemRecord(filled.diagnostic) } : { rows: [filled.value] };
  }
  const { source, tree } = step.rows!;
  const needed = valueNeeded(step.rows!, plainFrame(context), 'Write x ?? [] for rows that may be missing.');
  if ('problem' in needed) return needed;
  const secret = step.reveal ? undefined : secretIn(tree!, context.secretNames);
  const { value } = needed;
  if (value instanceof LongList && secret === undefined) return { rows: value };
  if (!isList(value) || !value.every(isObject)) {
    return {
      problem: problemAt(
        source,
        new RowFault('not-an-array', `rows needs an array of objects, not ${showValue(value, 60)}`),
      ),
    };
  }
  if (secret === undefined) return { rows: value };
  return { rows: value.map((row) => Object.fromEntries(Object.keys(row).map((name) => [name, new Mask(secret)]))) };
}
