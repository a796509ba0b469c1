import * as z from 'zod';
import { HMAC_ALGORITHMS, KEY_ENCODINGS, SIGNATURE_ENCODINGS } from '../http/callback-signature.ts';
import { choice, expression, text, word, type Expression } from '../schema/leaves.ts';
import { duration } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';
import type { Source } from '../diagnostics/source.ts';
import type { TextTemplate } from '../template/template.ts';

/** How the signature of a received request is verified. */
export type VerifyRule = Readonly<{
  hmac: (typeof HMAC_ALGORITHMS)[number];
  keys: readonly TextTemplate[];
  'key-encoding': (typeof KEY_ENCODINGS)[number];
  encoding: (typeof SIGNATURE_ENCODINGS)[number];
  header: Source;
  parameter: string | undefined;
  prefix: string;
  /** Expressions whose strings and bytes are signed, one behind the other; the body where there are none. */
  message: readonly Expression[];
  time: Expression | undefined;
  toleranceMs: number;
}>;

const TOLERANCE_MS = 5 * 60_000;

/** `verify` of a receive step. */
export const verify = () =>
  mapping({
    hmac: choice(...HMAC_ALGORITHMS).describe('The hash algorithm of the HMAC (RFC 2104).'),
    key: z
      .union([text('a key').transform((one) => [one]), z.array(text('a key'))])
      .describe('The key, or several of which one must fit.'),
    'key-encoding': choice(...KEY_ENCODINGS)
      .optional()
      .describe('How the key is written. Default: text.'),
    header: word('the name of a header').describe('The header that has the signature.'),
    parameter: word('the name of a parameter')
      .optional()
      .describe('The parameter of the header that has it, in a header such as t=1, v=abc.'),
    prefix: word('a string').optional().describe('What stands before the signature, such as sha256=.'),
    encoding: choice(...SIGNATURE_ENCODINGS)
      .optional()
      .describe('How the signature is written. Default: hex.'),
    message: z
      .array(expression())
      .optional()
      .describe('What is signed: expressions whose strings and bytes are joined. Default: the body, raw.'),
    time: expression('a point in time')
      .optional()
      .describe('When it was signed: a date-time, a string of one, or seconds or milliseconds since 1970.'),
    tolerance: duration().optional().describe('How long ago time may be. Default: 5m.'),
  }).transform((given): VerifyRule => ({
    hmac: given.hmac ?? 'sha256',
    keys: given.key,
    'key-encoding': given['key-encoding'] ?? 'text',
    encoding: given.encoding ?? 'hex',
    header: given.header,
    parameter: given.parameter?.text,
    prefix: given.prefix?.text ?? '',
    message: given.message ?? [],
    time: given.time,
    toleranceMs: given.tolerance ?? TOLERANCE_MS,
  }));
