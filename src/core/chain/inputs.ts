import type { Problem } from '../diagnostics/problem.ts';
import { diagnosticAt, diagnosticIn, looseSource, type Diagnostic } from '../diagnostics/source.ts';
import { adviceOf, didYouMean } from '../diagnostics/suggest.ts';
import { evaluate } from '../expression/evaluate.ts';
import { frameOf } from '../expression/frame.ts';
import { FillFault, fillFault, fillValue, type Resolver } from '../template/fill.ts';
import { showValue } from '../value/show.ts';
import { isNumber, parseInteger, parseNumber } from '../value/numbers.ts';
import { numberOf, type Maybe, type Value } from '../value/value.ts';
import type { Chain, Take, TakeType } from './model.ts';

export type Inputs = Readonly<{ inputs: ReadonlyMap<string, Maybe>; diagnostics: readonly Diagnostic[] }>;

/**
 * The inputs of a run, from what the command line gives and from defaults. Missing ones are told all together;
 * unknown ones and those of a wrong type each.
 */
export function resolveInputs(
  chain: Chain,
  given: ReadonlyMap<string, string>,
  secrets: Readonly<Record<string, Value>>,
): Inputs {
  const diagnostics: Diagnostic[] = [];
  const inputs = new Map<string, Maybe>();
  const names = chain.takes.map(({ name }) => name);
  for (const [name, text] of given) {
    if (names.includes(name)) continue;
    const source = looseSource('--take', `${name}=${text}`);
    const advice =
      didYouMean(name, names) ?? (names.length > 0 ? `It takes ${names.join(', ')}.` : 'It takes nothing.');
    diagnostics.push(
      diagnosticIn(source, {
        code: 'unknown-input',
        range: [0, name.length],
        message: `The chain ${chain.name} takes no "${name}"`,
        advice,
      }),
    );
  }
  const missing: Take[] = [];
  for (const take of chain.takes) {
    const text = given.get(take.name);
    if (text !== undefined) {
      const value = parseInput(take.type, text);
      if (value !== undefined) inputs.set(take.name, value);
      else diagnostics.push(wrongText(take, text));
    } else if (take.default) {
      const value = defaultOf(take, inputs, secrets);
      if ('diagnostic' in value) diagnostics.push(value.diagnostic);
      else inputs.set(take.name, value.value);
    } else if (take.optional) {
      inputs.set(take.name, undefined);
    } else {
      missing.push(take);
    }
  }
  const [first] = missing;
  if (first) diagnostics.push(diagnosticAt(chain.file, missingProblem(first, missing)));
  return { inputs, diagnostics };
}

function missingProblem(first: Take, missing: readonly Take[]): Problem {
  const words = missing.map(({ name, about }) => (about ? `${name} (${about})` : name));
  const options = missing.map(({ name, type }) => `--take ${name}=${EXAMPLES[type]}`);
  const what = missing.length === 1 ? 'An input is missing' : `${missing.length} inputs are missing`;
  return {
    code: 'input-missing',
    range: first.nameRange,
    message: `${what}: ${words.join(', ')}`,
    advice: `Give them with ${options.join(' ')}.`,
  };
}

const EXAMPLES: Readonly<Record<TakeType, string>> = {
  text: 'TEXT',
  integer: '3',
  number: '6.5',
  boolean: 'true',
  date: '2026-05-23',
};

const WANTED: Readonly<Record<TakeType, string>> = {
  text: 'a text',
  integer: 'a whole number',
  number: 'a number',
  boolean: 'true or false',
  date: 'a date such as 2026-05-23',
};

function wrongText(take: Take, text: string): Diagnostic {
  const source = looseSource('--take', `${take.name}=${text}`);
  const range = [take.name.length + 1, Math.max(source.text.length, take.name.length + 2)] as const;
  return diagnosticIn(source, {
    code: 'input-wrong',
    range,
    message: `The input "${take.name}" takes ${WANTED[take.type]}, and '${text}' is none`,
  });
}

/** A text of the command line as a value of a type; `undefined` when it is none. */
export function parseInput(type: TakeType, text: string): Value | undefined {
  switch (type) {
    case 'text':
      return text;
    case 'boolean':
      return text === 'true' ? true : text === 'false' ? false : undefined;
    case 'integer':
      return parseInteger(text);
    case 'number':
      return parseNumber(text);
    case 'date':
      return isDate(text) ? text : undefined;
  }
}

/** `YYYY-MM-DD` of a day that there is. */
function isDate(text: string): boolean {
  if (!/^\d{4}-\d\d-\d\d$/.test(text)) return false;
  const date = new Date(`${text}T00:00:00Z`);
  return !Number.isNaN(date.getTime()) && date.toISOString().startsWith(text);
}

/** Whether a value that a file gives is of a type; nothing is converted but a number to the text that was written. */
function fits(type: TakeType, value: Value): boolean {
  switch (type) {
    case 'text':
      return typeof value === 'string';
    case 'boolean':
      return typeof value === 'boolean';
    case 'integer': {
      const number = numberOf(value);
      return typeof number === 'bigint' || Number.isInteger(number);
    }
    case 'number':
      return isNumber(value);
    case 'date':
      return typeof value === 'string' && isDate(value);
  }
}

function defaultOf(
  take: Take,
  earlier: ReadonlyMap<string, Maybe>,
  secrets: Readonly<Record<string, Value>>,
): Readonly<{ value: Value }> | Readonly<{ diagnostic: Diagnostic }> {
  const frame = frameOf(undefined, (name) => (name === 'secret' ? secrets : earlier.get(name)));
  const resolver: Resolver = {
    forRecord: false,
    leavesOut: () => false,
    value: (hole) => {
      const outcome = evaluate(hole.node, frame);
      return outcome.problem ? fillFault(hole.source, outcome.problem) : outcome.value;
    },
  };
  try {
    const filled = fillValue(take.default!, resolver);
    const value = filled === 'left-out' ? null : filled.value;
    if (fits(take.type, value)) return { value };
    const message = `The default of "${take.name}" is ${showValue(value)}, and the input takes ${WANTED[take.type]}`;
    const { file } = take.default!.kind === 'text' ? take.default!.source : { file: take.file };
    return {
      diagnostic: diagnosticAt(file, {
        code: 'input-wrong',
        range: take.nameRange,
        message,
        ...adviceOf(adviceFor(take.type)),
      }),
    };
  } catch (error) {
    if (error instanceof FillFault) return { diagnostic: error.diagnostic };
    throw error;
  }
}

function adviceFor(type: TakeType): string | undefined {
  return type === 'text' ? 'Put the default in quotes.' : undefined;
}
