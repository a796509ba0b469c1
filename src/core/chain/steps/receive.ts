import { bodiesOf } from '../../http/bodies/list.ts';
import { expression, jsonValue, named, parameter, text, word } from '../../schema/leaves.ts';
import { duration, wholeNumber } from '../../schema/measures.ts';
import { mapping } from '../../schema/shape.ts';
import { stepReader } from './definition.ts';
import { expectations } from './expect/list.ts';

const WITHIN_MS = 5 * 60_000;

export const receive = stepReader({
  key: 'receive',
  about: 'Waits for the callback; $, headers, method, url and query are of the request received.',
  shape: () => ({
    receive: word('the name of a listen').describe('The address, as listen names it.'),
    within: duration().optional().describe('How long it waits; 5m unless said.'),
    until: expression('a condition').optional().describe('Which request is meant; others are answered 202.'),
    respond: mapping({
      status: wholeNumber('a status').optional().describe('The status; 200 unless said.'),
      headers: named(parameter()).optional().describe('Headers of the answer.'),
      json: jsonValue().optional().describe('A JSON body.'),
      text: text().optional().describe('A text as the body.'),
    })
      .optional()
      .describe('What the request is answered; 204 without it.'),
    expect: expectations().optional().describe('What must hold of the request.'),
    keep: named(expression()).optional().describe('Values of the request to keep, by name.'),
  }),
  read: (given) => ({
    kind: 'receive',
    name: given.receive.text,
    nameSource: given.receive,
    withinMs: given.within ?? WITHIN_MS,
    until: given.until,
    respond: given.respond && {
      status: given.respond.status ?? 200,
      headers: given.respond.headers ?? [],
      body: bodiesOf(given.respond, undefined)[0],
    },
    expect: given.expect ?? [],
    keep: given.keep ?? [],
  }),
});
