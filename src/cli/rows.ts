import { createReadStream, existsSync, statSync } from 'node:fs';
import path from 'node:path';
import { missingInputs, problemsOfConstant, type Given } from '../core/chain/inputs.ts';
import type { Chain } from '../core/chain/model.ts';
import { rowsIn, tableKindOf } from '../core/value/rows-in.ts';
import { looseSource } from '../core/diagnostics/source.ts';
import { didYouMean } from '../core/diagnostics/suggest.ts';
import { counted, nameList, showBriefly } from '../core/value/show.ts';
import { isObject, type ObjectValue, type Value } from '../core/value/value.ts';
import { CommandError } from '../runner/command-error.ts';
import type { GoingOn } from '../runner/prepare-run.ts';
import { loadChain, openProject } from '../runner/workspace.ts';
import { AS_WRITTEN, readAt } from '../runner/deployments.ts';
import type { Io } from './io.ts';
import type { ChainJob } from './many-chains.ts';
import { fractionOf } from './run-parts.ts';

/** Rows for which a chain is run. */
const MAX_ROWS = 100_000;

/** Wrong cells that are listed. */
const MAX_SHOWN = 10;

type RowOptions = Readonly<{ input: readonly string[]; inputsFrom?: string; slice?: string; fromRow?: string }>;

/**
 * The runs of a chain for the rows of a file: the columns are its inputs by name, an empty cell of an input with a default is
 * not given. Throws `CommandError` where columns and inputs do not go together.
 */
export async function rowJobs(
  chain: string,
  rowsFile: string,
  options: RowOptions,
  io: Io,
): Promise<readonly ChainJob[]> {
  const workspace = openProject(io.cwd);
  const loaded = loadChain(workspace, chain, readAt(AS_WRITTEN, {}, workspace.project)).chain;
  const rows = await readRows(rowsFile, io);
  if (loaded) checkColumns(loaded, rows, rowsFile, options, io);
  const name = loaded?.name ?? chain;
  const jobs = rows.map((row, i) => jobOf(chain, name, loaded, row, i, rowsFile));
  if (loaded) checkCells(loaded, jobs, rowsFile);
  const first = firstRow(options.fromRow, rows.length);
  const { part, of } = options.slice === undefined ? { part: 1, of: 1 } : fractionOf('--slice', '2/5', options.slice);
  return jobs.filter(({ row }, i) => i % of === part - 1 && row >= first);
}

function firstRow(said: string | undefined, count: number): number {
  const first = Number(said ?? 1);
  if (Number.isInteger(first) && first >= 1 && first <= count) return first;
  throw new CommandError('invalid-option', `--from-row needs the number of a row from 1 to ${count}, not "${said}"`);
}

async function readRows(file: string, { cwd }: Io): Promise<readonly ObjectValue[]> {
  const full = path.resolve(cwd, file);
  if (!existsSync(full) || !statSync(full).isFile())
    throw new CommandError('file-not-found', `The file ${file} does not exist`, 'Name a table: CSV, NDJSON or JSON.');
  const rows: ObjectValue[] = [];
  const fail = (why: string) => new CommandError('input-wrong', `${file} cannot be read as a table: ${why}`);
  try {
    const texts = createReadStream(full, { encoding: 'utf8' }) as AsyncIterable<string>;
    for await (const some of rowsIn(texts, tableKindOf(file, ''), { separator: undefined })) {
      for (const row of some) {
        if (!isObject(row)) throw fail(`row ${rows.length + 1} is ${showBriefly(row)}, not an object`);
        if (rows.push(row) > MAX_ROWS) throw fail(`it has more than ${counted(MAX_ROWS, 'row')}`);
      }
    }
  } catch (error) {
    throw error instanceof CommandError ? error : fail((error as Error).message);
  }
  if (rows.length === 0) throw fail('it has no rows');
  return rows;
}

function checkColumns(
  chain: Chain,
  rows: readonly ObjectValue[],
  file: string,
  { input, inputsFrom }: RowOptions,
  io: Io,
): void {
  const columns = new Set(rows.flatMap((row) => Object.keys(row)));
  const inputs = chain.inputs.map(({ name }) => name);
  const said = new Set(input.map((each) => each.slice(0, each.indexOf('='))));
  const missing = inputsFrom === undefined ? missingInputs(chain, new Set([...columns, ...said])) : [];
  const unused = [...columns].filter((column) => !inputs.includes(column));
  if (missing.length > 0) {
    const names = missing.map(({ name }) => name);
    const near = unused.map((column) => didYouMean(column, names)).find((each) => each !== undefined);
    const advice = `Add ${names.length === 1 ? 'the column' : 'the columns'}, or give the value with --input.`;
    const lacks = `${file} has no column for the ${names.length === 1 ? 'input' : 'inputs'} ${nameList(names)}`;
    throw new CommandError('column-missing', lacks, near ? `Its columns are ${nameList([...columns])}.` : advice);
  }
  if (unused.length === columns.size)
    throw new CommandError(
      'column-missing',
      `No column of ${file} is an input of ${chain.name}`,
      inputs.length === 0 ? 'It has no inputs: declare them under inputs.' : `Its inputs are ${nameList(inputs)}.`,
    );
  if (unused.length > 0) io.exit.err(`note: columns of ${file} that are no inputs: ${nameList(unused)}\n`);
}

/** Every cell is looked at before the first request. */
function checkCells({ inputs }: Chain, jobs: readonly ChainJob[], file: string): void {
  const wrong = jobs.flatMap(({ from }) =>
    inputs.flatMap((input) => {
      const given = from?.inputs.get(input.name);
      return given
        ? problemsOfConstant(input, given).map(({ message }) => `${given.source.file.path}: ${message}`)
        : [];
    }),
  );
  if (wrong.length === 0) return;
  const shown = wrong.slice(0, MAX_SHOWN).join('\n  ');
  const more = wrong.length > MAX_SHOWN ? `\n  and ${wrong.length - MAX_SHOWN} more` : '';
  throw new CommandError(
    'input-wrong',
    `${counted(wrong.length, 'cell')} of ${file} cannot be an input`,
    `${shown}${more}`,
  );
}

function jobOf(
  file: string,
  name: string,
  chain: Chain | undefined,
  row: ObjectValue,
  i: number,
  rowsFile: string,
): ChainJob & Readonly<{ row: number }> {
  const given = new Map<string, Given>();
  for (const [column, value] of Object.entries(row)) {
    const input = chain?.inputs.find((each) => each.name === column);
    const isEmpty = value === '' || value === null;
    if (!input || (isEmpty && (input.default || input.optional))) continue;
    const text = typeof value === 'string' ? value : '';
    const source = looseSource(`${rowsFile} row ${i + 1}, ${column}`, text);
    given.set(column, typeof value === 'string' ? { text, source } : { value, source });
  }
  const from: GoingOn = { recorded: undefined, record: undefined, inputs: given, heading: undefined };
  return { file, from, name: `${name} row ${i + 1}${labelOf(row)}`, row: i + 1 };
}

/** What a row is known by: its first cell. */
function labelOf(row: ObjectValue): string {
  const first: Value | undefined = Object.values(row)[0];
  return first === undefined || first === null || first === ''
    ? ''
    : `: ${typeof first === 'string' ? first : showBriefly(first)}`;
}
