import { numberOf, type Value } from '../../value/value.ts';
import type { Draw, Host } from '../host.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { optional, textValue, wholeNumber } from './parameters.ts';

const LETTERS_AND_DIGITS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789';
const MAX_LENGTH = 10_000;

/** Values from the run's seed: the same seed, step and order of draws give the same again. */
export const random: readonly FunctionDefinition[] = [
  {
    name: 'uuid',
    parameters: [],
    result: 'string',
    needsHost: true,
    volatile: true,
    about: "A random UUID (RFC 9562, version 4), drawn from the run's seed.",
    alias: ['guid', 'uuid4', 'uuidv4', 'random_uuid', 'new_id'],
    example: ['match(uuid(), "[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}")', 'true'],
    evaluate: (host: Host) => host.drawn('uuid', uuidOf),
  },
  {
    name: 'random_integer',
    parameters: [wholeNumber('least'), wholeNumber('most')],
    result: 'number',
    needsHost: true,
    volatile: true,
    errors: 'The first number is greater than the second.',
    about: "A random whole number between two, both included, drawn from the run's seed.",
    alias: ['rand', 'randint', 'random', 'random_int', 'random_number'],
    example: ['random_integer(3, 5) in [3, 4, 5]', 'true'],
    evaluate: (host: Host, least: Value, most: Value) => {
      const [from, to] = [numberOf(least) as number, numberOf(most) as number];
      if (to < from)
        throw new FunctionFault(`The range from ${from} to ${to} is empty`, 'Put the smaller one first.', 1);
      return host.drawn('random_integer', (draw) => from + below(to - from + 1, draw));
    },
  },
  {
    name: 'random_text',
    parameters: [wholeNumber('length'), optional(textValue('alphabet'))],
    result: 'string',
    needsHost: true,
    volatile: true,
    errors: 'The length is below 0 or over 10,000; the alphabet is empty.',
    about: "A random string of letters and digits, or of the characters of an alphabet, drawn from the run's seed.",
    alias: ['random_string', 'randstr', 'nonce'],
    example: ["match(random_text(8, 'ab'), '[ab]{8}')", 'true'],
    evaluate: (host: Host, length: Value, alphabet: string = LETTERS_AND_DIGITS) => {
      const count = numberOf(length) as number;
      if (count < 0 || count > MAX_LENGTH) throw new FunctionFault(`A random string has 0 to ${MAX_LENGTH} characters`);
      const characters = [...alphabet];
      if (characters.length === 0) throw new FunctionFault('An alphabet needs at least one character', undefined, 1);
      return host.drawn('random_text', (draw) =>
        Array.from({ length: count }, () => characters[below(characters.length, draw)]!).join(''),
      );
    },
  },
];

function uuidOf({ bytes }: Draw): string {
  const drawn = bytes(16);
  drawn[6] = (drawn[6]! & 0x0f) | 0x40;
  drawn[8] = (drawn[8]! & 0x3f) | 0x80;
  const hex = [...drawn].map((byte) => byte.toString(16).padStart(2, '0')).join('');
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
}

/** A number from 0 to below `count`, each as likely: draws that would favour some are thrown away. */
function below(count: number, { bytes }: Draw): number {
  const size = 2 ** 53;
  const fair = size - (size % count);
  for (;;) {
    const drawn = bytes(7).reduce((sum, byte, i) => (i === 0 ? byte & 0x1f : sum * 256 + byte), 0);
    if (drawn < fair) return drawn % count;
  }
}
