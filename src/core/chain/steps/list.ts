import * as z from 'zod';
import { choice, expression, word } from '../../schema/leaves.ts';
import { inputOf, taking, type JsonSchema } from '../../schema/input.ts';
import { mapping, placedOf, readShape, type Placed } from '../../schema/shape.ts';
import { entryOf, type YamlMap } from '../../yaml/tree.ts';
import type { BrokenStep, Step } from '../model.ts';
import { suggestAmong, suggestKey } from '../suggest-key.ts';
import { call } from './call.ts';
import { chain } from './chain.ts';
import type { StepKind } from './definition.ts';
import { each } from './each.ts';
import { expectStep } from './expect-step.ts';
import { ifStep } from './if.ts';
import { letStep } from './let.ts';
import { listen } from './listen.ts';
import { receive } from './receive.ts';
import { remember } from './remember.ts';
import { repeat } from './repeat.ts';
import { sayStep } from './say.ts';
import { stopStep } from './stop.ts';
import { parallel } from './parallel.ts';
import { waitStep } from './wait.ts';
import { write } from './write.ts';

/** Every kind of step; a new one is a file here, one in the engine, and a line in each list. */
export const stepKinds: readonly StepKind[] = [
  call,
  each,
  parallel,
  repeat,
  chain,
  ifStep,
  letStep,
  waitStep,
  sayStep,
  stopStep,
  write,
  remember,
  listen,
  receive,
  // Others have this key too, and a key of their own before it.
  expectStep,
];

/** What every kind of step may say. */
const common = () => ({
  when: expression('a condition').optional().describe('A condition; if it is false, the step is skipped.'),
  once: choice('first-slice', 'last-slice')
    .optional()
    .describe(
      'In a run that is divided by slices: only the first slice runs the step, or the one that comes to it last.',
    ),
  about: word().optional().describe('What the step is for.'),
});

const schemas = new Map<StepKind, ReturnType<typeof makeSchema>>();

function makeSchema(reader: StepKind) {
  return mapping({ ...reader.shape(stepList), ...common() });
}

/** The schema of a kind of step, made when the first one is read. */
export function schemaOfStep(reader: StepKind): ReturnType<typeof makeSchema> {
  let schema = schemas.get(reader);
  if (!schema) schemas.set(reader, (schema = makeSchema(reader)));
  return schema;
}

/** A list of steps, as under `steps`. */
export const stepList = () => z.array(step()).describe('Steps, in order.');

/** One element of `steps`: the key that is there says which kind it is. */
const step = () => taking(readingStep(), () => ({ what: 'a step', json: { $ref: '#/$defs/step' } }));

/** A step as JSON Schema: one of the kinds. */
export const stepInput = (): JsonSchema => ({
  anyOf: stepKinds.map((reader) => ({
    ...inputOf(schemaOfStep(reader)).json,
    title: reader.key,
    description: reader.about,
  })),
});

const readingStep = () =>
  z.transform((projected: unknown, context): Step => {
    const { node, reading } = placedOf(projected);
    if (node.kind === 'map') return readStep({ node, reading });
    context.issues.push({ code: 'custom', message: 'a step, such as call:', input: projected });
    return { kind: 'broken', when: undefined, once: undefined, binds: [] };
  });

function readStep(placed: Placed<YamlMap>): Step {
  const { node, reading } = placed;
  const reader = stepKinds.find(({ key }) => node.entries.some((entry) => entry.key === key));
  if (reader) {
    const schema = schemaOfStep(reader);
    const given = readShape(schema, placed, suggestAmong(schema.shape));
    // A loop without a head is no loop.
    return given && !(reader === each && !(given as { each?: unknown }).each)
      ? ({ ...reader.read(given as never, placed), when: given.when, once: given.once } as Step)
      : brokenStep(node);
  }
  const first = node.entries[0];
  const kinds = stepKinds.map(({ key }) => key);
  const { meant, advice = `A step has one of the keys ${kinds.join(', ')}.` } = first
    ? suggestKey(first.key, kinds)
    : {};
  const message = first ? `No step begins with "${first.key}"` : 'An empty step';
  reading.report({
    code: first ? 'unknown-key' : 'key-missing',
    range: first?.keyRange ?? [node.range[0], node.range[0] + 1],
    message,
    advice,
    ...(meant !== undefined && first ? { fix: { range: first.keyRange, text: meant } } : {}),
  });
  return brokenStep(node);
}

/** What a step would have bound is known by its keys alone. */
function brokenStep(node: YamlMap): BrokenStep {
  const binds = ['keep', 'let'].flatMap((key) => {
    const names = entryOf(node, key)?.value;
    return names?.kind === 'map' ? names.entries.map((entry) => entry.key) : [];
  });
  return { kind: 'broken', when: undefined, once: undefined, binds };
}
