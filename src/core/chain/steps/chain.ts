import { expression, named, value, word } from '../../schema/leaves.ts';
import { stepReader } from './definition.ts';

export const chain = stepReader({
  key: 'chain',
  about: 'Runs another chain in a scope of its own.',
  shape: () => ({
    chain: word('the name of a chain file').describe('The chain file.'),
    inputs: named(value()).optional().describe('Values for the inputs of the chain, by name.'),
    keep: named(expression()).optional().describe('Outputs of the chain to keep, read as outputs.NAME.'),
  }),
  read: (given) => ({ kind: 'chain', file: given.chain, inputs: given.inputs ?? [], keep: given.keep ?? [] }),
});
