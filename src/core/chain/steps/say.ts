import { text, word } from '../../schema/leaves.ts';
import { mapping, readShape } from '../../schema/shape.ts';
import { suggestKey } from '../suggest-key.ts';
import type { StepReader } from './definition.ts';

const schema = mapping({
  say: text().describe('A line in the output and the record.'),
  about: word().optional().describe('What it is for.'),
});

/** `say`: a line in the output. */
export const sayStep: StepReader = {
  key: 'say',
  schema,
  keys: Object.keys(schema.shape),
  read: (placed) => {
    const given = readShape(schema, placed, (key, path) =>
      path.length === 0 ? suggestKey(key, Object.keys(schema.shape)) : undefined,
    );
    return given ? { kind: 'say', text: given.say } : { kind: 'broken', binds: [] };
  },
};
