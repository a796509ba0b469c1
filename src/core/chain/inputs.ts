import type { Problem } from '../diagnostics/problem.ts';
import {
  diagnosticAt,
  diagnosticIn,
  looseSource,
  wholeOf,
  type Diagnostic,
  type Source,
} from '../diagnostics/source.ts';
import { didYouMean } from '../diagnostics/suggest.ts';
import { evaluate } from '../expression/evaluate.ts';
import { frameOf } from '../expression/frame.ts';
import type { Host } from '../expression/host.ts';
import type { OpenLines } from '../ports.ts';
import { FillFault, fillFault, fillValue, type Resolver } from '../template/fill.ts';
import { equalValues } from '../value/compare.ts';
import { showValue } from '../value/show.ts';
import { isList, SpilledList, type Maybe, type Value } from '../value/value.ts';
import type { Choice } from './choices.ts';
import type { Chain, InputDefinition } from './model.ts';
import { streamableLists } from './streamable-lists.ts';
import { readTable, tableOfSpilled, tableOfRows, type TableRead, type TableSource } from './tables.ts';
import { inputTypes } from './input-types.ts';

export type Inputs = Readonly<{ inputs: ReadonlyMap<string, Maybe>; diagnostics: readonly Diagnostic[] }>;

/** A value given for an input: a text to be read by its type, a value of a file, or a table; and where it came from. */
export type Given = Readonly<{ source: Source }> &
  (Readonly<{ text: string }> | Readonly<{ value: Value }> | Readonly<{ table: TableSource }>);

/** What inputs are read with: what expressions may ask for, files beside the chain, and a place for long tables. */
export type InputHost = Readonly<{
  expressions: Host;
  openTable(name: string): TableSource | Readonly<{ message: string; advice?: string }>;
  openLines?: OpenLines | undefined;
  /** The choices that another chain gives for an input; nothing where they are not asked for. */
  choicesOf?(input: InputDefinition): Promise<readonly Choice[] | undefined>;
}>;

/** `name=text` of the command line. */
export function givenOnCommandLine(name: string, text: string): Given {
  const source = looseSource('--input', `${name}=${text}`);
  return { text, source: { ...source, text, locate: ([from, to]) => [from + name.length + 1, to + name.length + 1] } };
}

/** The inputs that must be given and are not, in the order of the file. */
export function missingInputs(
  chain: Chain,
  given: Readonly<{ has(name: string): boolean }>,
): readonly InputDefinition[] {
  return chain.inputs.filter((input) => !given.has(input.name) && !input.default && !input.optional);
}

/**
 * The inputs of a run, from what is given and from defaults. Missing ones are told all together; unknown ones and
 * those of a wrong type each.
 */
export async function resolveInputs(
  chain: Chain,
  given: ReadonlyMap<string, Given>,
  secrets: Readonly<Record<string, Value>>,
  host: InputHost,
): Promise<Inputs> {
  const diagnostics: Diagnostic[] = [...unknownInputs(chain, given)];
  const inputs = new Map<string, Maybe>();
  for (const input of chain.inputs) {
    const from = given.get(input.name);
    const found = from ? await givenValue(input, from, host) : defaultOf(input, inputs, secrets, host);
    const outcome = found && 'table' in found ? await rowsOf(found.table, input, chain, host) : found;
    if (outcome && 'diagnostics' in outcome) diagnostics.push(...outcome.diagnostics);
    else if (outcome || input.optional) inputs.set(input.name, outcome?.value);
  }
  const missing = missingInputs(chain, given);
  if (missing[0]) diagnostics.push(diagnosticAt(chain.file, missingProblem(missing[0], missing)));
  return { inputs, diagnostics };
}

/** A value that was given, held against the choices that another chain gives. */
async function givenValue(input: InputDefinition, from: Given, host: InputHost) {
  const choices = input.choicesFrom ? await host.choicesOf?.(input) : undefined;
  const allowed = choices?.map(({ value }) => value) ?? input.choices;
  return valueOf({ ...input, choices: allowed }, from, host.expressions.zone);
}

function unknownInputs(chain: Chain, given: ReadonlyMap<string, Given>): readonly Diagnostic[] {
  const names = chain.inputs.map(({ name }) => name);
  return [...given].flatMap(([name, { source }]) => {
    if (names.includes(name)) return [];
    const advice =
      didYouMean(name, names) ?? (names.length > 0 ? `Its inputs are ${names.join(', ')}.` : 'It has no inputs.');
    const message = `The chain ${chain.name} has no input "${name}"`;
    return [diagnosticIn(source, { code: 'unknown-input', range: wholeOf(source), message, advice })];
  });
}

function missingProblem(first: InputDefinition, missing: readonly InputDefinition[]): Problem {
  const words = missing.map(({ name, about }) => (about ? `${name} (${about})` : name));
  const options = missing.map(({ name, type }) => `--input ${name}=${inputTypes[type].example}`);
  const what = missing.length === 1 ? 'An input is missing' : `${missing.length} inputs are missing`;
  return {
    code: 'input-missing',
    range: first.nameRange,
    message: `${what}: ${words.join(', ')}`,
    advice: `Pass ${missing.length === 1 ? 'it' : 'them'}: ${options.join(' ')}.`,
  };
}

type Resolved = Readonly<{ value: Value }> | Readonly<{ diagnostics: readonly Diagnostic[] }>;

/** The rows of a table; one that is only gone over is not held when it is long. */
async function rowsOf(source: TableSource, input: InputDefinition, chain: Chain, host: InputHost): Promise<Resolved> {
  const { openLines } = host;
  const lines = openLines && streamableLists(chain).has(input.name) ? () => openLines('table') : undefined;
  return resolvedTable(await readTable(source, input, host.expressions.zone, lines));
}

function resolvedTable(read: TableRead): Resolved {
  return 'rows' in read ? { value: read.rows } : read;
}

function valueOf(input: InputDefinition, given: Given, zone: string): Resolved | Readonly<{ table: TableSource }> {
  const { source } = given;
  if ('table' in given) return given;
  if (input.type === 'table' && 'value' in given) {
    if (given.value instanceof SpilledList) return { value: tableOfSpilled(given.value, input, zone) };
    if (isList(given.value)) return resolvedTable(tableOfRows(given.value, input, zone));
  }
  const type = inputTypes[input.type];
  const value = 'text' in given ? type.parse(given.text, zone) : type.accept(given.value, zone);
  const at = { range: wholeOf(source) };
  if (value === undefined) {
    const shown = input.type === 'secret' ? 'this' : 'text' in given ? `'${given.text}'` : showValue(given.value);
    const message = `The input "${input.name}" takes ${type.what}, not ${shown}`;
    return { diagnostics: [diagnosticIn(source, { ...at, code: 'input-wrong', message })] };
  }
  const problem = choiceProblem(input, value, zone);
  return problem ? { diagnostics: [diagnosticIn(source, { ...at, ...problem })] } : { value };
}

/** What is wrong with a value that a file passes for an input, as far as that is known before anything runs. */
export function problemsOfConstant(input: InputDefinition, given: Given): readonly Diagnostic[] {
  const found = input.type === 'table' ? undefined : valueOf(input, given, 'UTC');
  return found && 'diagnostics' in found ? found.diagnostics : [];
}

/** What is wrong with a value that is not among the choices of its input. */
function choiceProblem(
  { name, type, choices }: InputDefinition,
  value: Value,
  zone: string,
): Omit<Problem, 'range'> | undefined {
  const allowed = choices?.map((choice) => inputTypes[type].accept(choice, zone) ?? choice);
  if (!allowed || allowed.some((choice) => equalValues(choice, value))) return undefined;
  const texts = allowed.map((choice) => (typeof choice === 'string' ? choice : showValue(choice)));
  const near = typeof value === 'string' ? didYouMean(value, texts) : undefined;
  return {
    code: 'not-a-choice',
    message: `The input "${name}" is ${showValue(value)}, which is not one of its choices`,
    advice: near ?? `The choices are ${texts.slice(0, 20).join(', ')}.`,
  };
}

/** The default of an input, which may read inputs before it; nothing without one. */
function defaultOf(
  input: InputDefinition,
  earlier: ReadonlyMap<string, Maybe>,
  secrets: Readonly<Record<string, Value>>,
  { expressions: host, openTable }: InputHost,
): Resolved | Readonly<{ table: TableSource }> | undefined {
  if (!input.default) return undefined;
  const frame = frameOf(undefined, (name) => (name === 'secret' ? secrets : earlier.get(name)), host);
  const resolver: Resolver = {
    forRecord: false,
    leavesOut: () => false,
    value: (placeholder) => {
      const outcome = evaluate(placeholder.node, frame);
      return outcome.problem ? fillFault(placeholder.source, outcome.problem) : outcome.value;
    },
  };
  try {
    const filled = fillValue(input.default, resolver);
    const said = filled === 'left-out' ? null : filled.value;
    if (input.type === 'table' && typeof said === 'string') {
      const table = openTable(said);
      if (!('message' in table)) return { table };
      const problem = { code: 'file-not-found' as const, range: input.nameRange, ...table };
      return { diagnostics: [diagnosticAt(input.file, problem)] };
    }
    if (input.type === 'table' && isList(said)) return resolvedTable(tableOfRows(said, input, host.zone));
    const given = said;
    const value = inputTypes[input.type].accept(given, host.zone);
    const problem: Omit<Problem, 'range'> | undefined =
      value === undefined ? wrongDefault(input, given) : choiceProblem(input, value, host.zone);
    if (!problem) return { value: value! };
    return { diagnostics: [diagnosticAt(input.file, { ...problem, range: input.nameRange })] };
  } catch (error) {
    if (error instanceof FillFault) return { diagnostics: [error.diagnostic] };
    throw error;
  }
}

function wrongDefault({ name, type }: InputDefinition, given: Value): Omit<Problem, 'range'> {
  const message = `The default of "${name}" is ${showValue(given)}, and the input takes ${inputTypes[type].what}`;
  return type === 'string'
    ? { code: 'input-wrong', message, advice: 'Put the default in quotes.' }
    : { code: 'input-wrong', message };
}
