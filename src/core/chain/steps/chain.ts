import { chainFileName, expression, named, value } from '../../schema/leaves.ts';
import { namedOrWhole } from '../../schema/whole-object.ts';
import { stepKind } from './definition.ts';
import { bindingParts, namedParts } from '../parts.ts';

export const chain = stepKind({
  key: 'chain',
  about: 'Runs another chain in a scope of its own.',
  shape: () => ({
    chain: chainFileName().describe('The chain file.'),
    inputs: namedOrWhole(value()).optional().describe('Values for the inputs of the chain, by name.'),
    keep: named(expression()).optional().describe('Outputs of the chain to keep, read as outputs.NAME.'),
  }),
  read: (given) => ({ kind: 'chain', file: given.chain, inputs: given.inputs ?? [], keep: given.keep ?? [] }),
  parts: (step) => [
    { sort: 'file', source: step.file, of: 'chain' },
    ...namedParts(step.inputs, 'value', { key: 'inputs', leftOut: true }),
    ...bindingParts(step.keep, {
      what: 'keep',
      by: `output of ${step.file.text}`,
      at: { key: 'keep', means: ['outputs'] },
    }),
  ],
  nameOf: ({ file }) => file.text,
  sourceOf: ({ file }) => file,
});
