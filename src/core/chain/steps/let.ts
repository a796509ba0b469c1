import { expression, named, word } from '../../schema/leaves.ts';
import { mapping, readShape } from '../../schema/shape.ts';
import { entryOf } from '../../yaml/tree.ts';
import { suggestAmong } from '../suggest-key.ts';
import type { StepReader } from './definition.ts';

const schema = mapping({
  let: named(expression()).describe('Variables by name, each computed from those before it.'),
  about: word().optional().describe('What they are for.'),
});

/** `let`: computes variables. */
export const letStep: StepReader = {
  key: 'let',
  read: (placed) => {
    const given = readShape(schema, placed, suggestAmong(schema.shape));
    if (given) return { kind: 'let', names: given.let };
    const names = entryOf(placed.node, 'let')?.value;
    return { kind: 'broken', binds: names?.kind === 'map' ? names.entries.map(({ key }) => key) : [] };
  },
};
