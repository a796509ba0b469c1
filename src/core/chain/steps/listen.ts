import { text, word } from '../../schema/leaves.ts';
import { wholeNumber } from '../../schema/measures.ts';
import { stepReader } from './definition.ts';

export const listen = stepReader({
  key: 'listen',
  about: 'Opens an address for a callback; NAME.url is its URL.',
  shape: () => ({
    listen: word('a name').describe('The name of the address.'),
    path: text('a path').optional().describe('Its path; without one 128 random bits that nobody guesses.'),
    port: wholeNumber('a port').optional().describe('Its port; a free one unless said.'),
    bind: word('an address').optional().describe('The address that is listened at; 127.0.0.1 unless said.'),
    public: text('a URL').optional().describe('The URL under which it is seen from outside.'),
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
});
