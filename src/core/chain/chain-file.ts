import * as z from 'zod';
import type { Problem } from '../diagnostics/problem.ts';
import type { Diagnostic, Source, SourceFile } from '../diagnostics/source.ts';
import {
  apiName,
  chainFileName,
  choice,
  constant,
  expression,
  flag,
  named,
  value,
  word,
  type Named,
  type NamedEntry,
} from '../schema/leaves.ts';
import { mapping, readShape } from '../schema/shape.ts';
import type { Expression } from '../schema/leaves.ts';
import { readYaml } from '../yaml/read.ts';
import { collect } from './collect.ts';
import { COLUMN_TYPES, INPUT_TYPES, type Chain, type ChoicesFrom, type InputDefinition } from './model.ts';
import { inputOf, type JsonSchema } from '../schema/input.ts';
import { stepInput, stepList } from './steps/list.ts';
import { suggestKey } from './suggest-key.ts';

const inputShape = mapping({
  type: choice(...INPUT_TYPES).describe('The type of the input.'),
  default: value().optional().describe('The value if none is given.'),
  optional: flag().optional().describe('Whether the input is optional.'),
  about: word().optional().describe('What the input is for; shown when it is asked for.'),
  columns: named(choice(...COLUMN_TYPES))
    .optional()
    .describe('For a table: types of columns by name; other columns are strings.'),
  separator: word('a character')
    .optional()
    .describe('For a table: the separator between the cells of CSV. Default: a comma.'),
  charset: word('a charset').optional().describe('For a table: its charset. Default: utf-8.'),
  decimal: word('a character')
    .optional()
    .describe('For a table: the decimal mark in columns of numbers. Default: a point.'),
  thousands: word('a character')
    .optional()
    .describe('For a table: the sign that groups thousands in columns of numbers. Default: none.'),
  choices: z
    .union([
      z.array(constant()),
      mapping({
        chain: chainFileName().describe('The chain that provides the values.'),
        name: word('a name').describe('The output of that chain with the values: an array.'),
      }),
    ])
    .optional()
    .describe('The permitted values: an array, or a chain and the name of its output.'),
});

/** `name: type`, or `name: {type, default, optional, about}`. */
const input = z.union([
  choice(...INPUT_TYPES).transform((type) => ({
    type,
    default: undefined,
    optional: undefined,
    about: undefined,
    choices: undefined,
    columns: undefined,
    separator: undefined,
    charset: undefined,
    decimal: undefined,
    thousands: undefined,
  })),
  inputShape,
]);

/** A mapping from names to expressions, or a list of names that stand for themselves. */
const outputs = z.union([
  named(expression()),
  z.array(expression('a name')).transform((list): Named<Expression> =>
    list.map((each) => ({
      name: each.source.text,
      nameRange: each.source.locate([0, each.source.text.length]),
      file: each.source.file,
      value: each,
    })),
  ),
]);

const chainFile = mapping({
  name: word().optional().describe('The name of the chain. Default: the name of the file.'),
  about: word().optional().describe('What the chain is for.'),
  tags: z.array(word('a tag')).optional().describe('Words that select chains in a run.'),
  api: apiName().optional().describe('The API of calls that name none.'),
  inputs: named(input).optional().describe('The inputs of the chain, by name.'),
  steps: stepList().describe('The steps, in order.'),
  cleanup: stepList().optional().describe('Steps that run at the end in any case, each even if another failed.'),
  outputs: outputs.optional().describe('The outputs of the chain: expressions by name, or an array of names.'),
});

/** A chain file as JSON Schema (2020-12). */
export function chainInput(): JsonSchema {
  return { ...inputOf(chainFile).json, $defs: { step: stepInput() } };
}

/** The keys of a chain file and of an input in it, for the reference. */
export const chainShapes = { chain: chainFile, input: inputShape };

/** Reads a chain file. The model is there even when parts of it are wrong, so that the rest can be checked too. */
export function readChain(
  file: SourceFile,
): Readonly<{ chain: Chain | undefined; diagnostics: readonly Diagnostic[] }> {
  return collect(file, (reading): { chain: Chain | undefined } => {
    const tree = readYaml(reading);
    if (!tree) return { chain: undefined };
    const given = readShape(chainFile, { node: tree, reading }, (key, path) => suggestKey(key, keysAt(path)));
    if (!given) return { chain: undefined };
    const chain: Chain = {
      file,
      name: given.name?.text ?? fileName(file.path),
      about: given.about?.text,
      tags: (given.tags ?? []).map(({ text }) => text),
      api: given.api,
      inputs: (given.inputs ?? []).map((entry) => readInput(entry, reading.report)),
      steps: given.steps,
      cleanup: given.cleanup ?? [],
      outputs: given.outputs ?? [],
    };
    return { chain };
  });
}

function keysAt(path: readonly PropertyKey[]): readonly string[] {
  if (path.length === 0) return Object.keys(chainFile.shape);
  return path[0] === 'inputs' ? Object.keys(inputShape.shape) : [];
}

/** `chains/clear.chain.yaml` is called `clear` unless it says otherwise. */
export function fileName(path: string): string {
  return path.replace(/^.*[\\/]/, '').replace(/(\.chain)?\.ya?ml$/, '');
}

function readInput(
  { name, nameRange, file, value: given }: NamedEntry<z.output<typeof input>>,
  report: (problem: Problem) => void,
): InputDefinition {
  if (given.default && given.optional) {
    report({
      code: 'keys-clash',
      range: nameRange,
      message: `The input "${name}" has a default and is optional`,
      advice: 'An input with a default always has a value; remove optional.',
    });
  }
  return {
    file,
    name,
    nameRange,
    type: given.type ?? 'string',
    default: given.default,
    optional: given.optional ?? false,
    about: given.about?.text,
    choices: Array.isArray(given.choices) ? given.choices : undefined,
    choicesFrom: Array.isArray(given.choices) ? undefined : choicesFrom(given.choices),
    table: {
      columns: (given.columns ?? []).flatMap((entry) => (entry.value ? [{ ...entry, value: entry.value }] : [])),
      separator: given.separator?.text,
      charset: given.charset?.text,
      decimal: given.decimal?.text,
      thousands: given.thousands?.text,
    },
  };
}

function choicesFrom(
  given: { chain?: Source | undefined; name?: Source | undefined } | undefined,
): ChoicesFrom | undefined {
  return given?.chain && given.name ? { chain: given.chain, name: given.name } : undefined;
}
