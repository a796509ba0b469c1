import { text, word } from '../../schema/leaves.ts';
import { mapping, readShape } from '../../schema/shape.ts';
import { suggestAmong } from '../suggest-key.ts';
import type { StepReader } from './definition.ts';

const schema = mapping({
  say: text().describe('A line in the output and the record.'),
  about: word().optional().describe('What it is for.'),
});

/** `say`: a line in the output. */
export const sayStep: StepReader = {
  key: 'say',
  read: (placed) => {
    const given = readShape(schema, placed, suggestAmong(schema.shape));
    return given ? { kind: 'say', text: given.say } : { kind: 'broken', binds: [] };
  },
};
