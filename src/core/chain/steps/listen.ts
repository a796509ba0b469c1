import { text, word } from '../../schema/leaves.ts';
import { wholeNumber } from '../../schema/measures.ts';
import { stepKind } from './definition.ts';
import { bindingOf, textPart } from '../parts.ts';

export const listen = stepKind({
  key: 'listen',
  about: 'Opens an address for a callback; NAME.url is its URL.',
  shape: () => ({
    listen: word('a name').describe('The name of the address.'),
    path: text('a path').optional().describe('Its path. Default: a random path of 128 bits.'),
    port: wholeNumber('a port').optional().describe('Its port. Default: a free port.'),
    bind: word('an address').optional().describe('The address to bind. Default: 127.0.0.1.'),
    public: text('a URL').optional().describe('The URL of the address as seen from outside.'),
  }),
  read: (given) => ({
    kind: 'listen',
    name: given.listen.text,
    nameSource: given.listen,
    path: given.path,
    port: given.port,
    bind: given.bind?.text,
    public: given.public,
  }),
  parts: (step) => [
    ...textPart(step.path, 'text'),
    ...textPart(step.public, 'text'),
    bindingOf(step.name, step.nameSource.locate([0, step.name.length]), {
      what: 'keep',
      by: 'an address for callbacks',
      from: [],
      kind: 'object',
    }),
  ],
  nameOf: ({ name }) => name,
  sourceOf: ({ nameSource }) => nameSource,
});
