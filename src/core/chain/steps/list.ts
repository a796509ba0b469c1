import * as z from 'zod';
import { placedOf, type Placed } from '../../schema/shape.ts';
import type { YamlMap } from '../../yaml/tree.ts';
import type { Step } from '../model.ts';
import { suggestKey } from '../suggest-key.ts';
import { call } from './call.ts';
import { letStep } from './let.ts';
import { sayStep } from './say.ts';
import type { StepReader } from './definition.ts';

/** Every kind of step; a new one is a file here, one in the engine, and a line in each list. */
const readers: readonly StepReader[] = [call, letStep, sayStep];

/** One element of `steps`: the key that is there says which kind it is. */
export const step = () =>
  z.transform((projected: unknown, context): Step => {
    const { node, reading } = placedOf(projected);
    if (node.kind === 'map') return readStep({ node, reading });
    context.issues.push({ code: 'custom', message: 'a step, such as call:', input: projected });
    return { kind: 'broken', binds: [] };
  });

function readStep(placed: Placed<YamlMap>): Step {
  const { node, reading } = placed;
  const reader = readers.find(({ key }) => node.entries.some((entry) => entry.key === key));
  if (reader) return reader.read(placed);
  const first = node.entries[0];
  const kinds = readers.map(({ key }) => key);
  const advice = (first && suggestKey(first.key, kinds)) ?? `A step has one of the keys ${kinds.join(', ')}.`;
  const message = first ? `No kind of step begins with "${first.key}"` : 'An empty step';
  reading.report({
    code: first ? 'unknown-key' : 'key-missing',
    range: first?.keyRange ?? [node.range[0], node.range[0] + 1],
    message,
    advice,
  });
  return { kind: 'broken', binds: [] };
}
