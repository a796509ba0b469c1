import * as z from 'zod';
import type { Problem } from '../diagnostics/problem.ts';
import type { Diagnostic, Source, SourceFile } from '../diagnostics/source.ts';
import {
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
import { COLUMN_TYPES, INPUT_TYPES, type Chain, type InputDefinition } from './model.ts';
import { inputOf, type JsonSchema } from '../schema/input.ts';
import type { ChoicesFrom } from './choices.ts';
import { stepInput, stepList } from './steps/list.ts';
import { suggestKey } from './suggest-key.ts';

const inputShape = mapping({
  type: choice(...INPUT_TYPES).describe('The type of the input.'),
  default: value().optional().describe('The value when none is given.'),
  optional: flag().optional().describe('Whether it may be left out.'),
  about: word().optional().describe('What the input is for; shown when it is asked for.'),
  columns: named(choice(...COLUMN_TYPES))
    .optional()
    .describe('Of a table: types of its columns by name; those that are not named are texts.'),
  separator: word('a character')
    .optional()
    .describe('Of a table: what stands between the cells of CSV; a comma unless said.'),
  charset: word('a charset').optional().describe('Of a table: its charset; utf-8 unless said.'),
  choices: z
    .union([
      z.array(constant()),
      mapping({
        chain: word('the name of a chain file').describe('The chain that gives the values.'),
        name: word('a name').describe('The name under which it gives them: a list.'),
      }),
    ])
    .optional()
    .describe('The values that it may have: a list, or a chain and the name under which it gives them.'),
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
  name: word().optional().describe('The name of the chain; the file’s without one.'),
  about: word().optional().describe('What the chain is for.'),
  tags: z.array(word('a tag')).optional().describe('Words by which runs choose chains.'),
  api: word('the name of an api').optional().describe('The api of the calls that name none.'),
  inputs: named(input).optional().describe('What the chain must be given.'),
  steps: stepList().describe('The steps, in order.'),
  cleanup: stepList().optional().describe('Steps that run at the end whatever happened, each even if another failed.'),
  outputs: outputs.optional().describe('What the chain gives when it ends.'),
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
      advice: 'With a default it is always there; leave optional out.',
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
    },
  };
}

function choicesFrom(
  given: { chain?: Source | undefined; name?: Source | undefined } | undefined,
): ChoicesFrom | undefined {
  return given?.chain && given.name ? { chain: given.chain, name: given.name } : undefined;
}
