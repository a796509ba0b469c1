import { bodiesOf } from '../../http/bodies/list.ts';
import { expression, jsonValue, named, parameter, text, word } from '../../schema/leaves.ts';
import { duration, wholeNumber } from '../../schema/measures.ts';
import { mapping } from '../../schema/shape.ts';
import { stepReader } from './definition.ts';
import { expectations } from './expect/list.ts';

const WITHIN_MS = 5 * 60_000;

export const receive = stepReader({
  key: 'receive',
  about: 'Waits for a callback; $, headers, method, url and query are those of the received request.',
  shape: () => ({
    receive: word('the name of a listen').describe('The name of the address in listen.'),
    within: duration().optional().describe('The time limit. Default: 5m.'),
    until: expression('a condition')
      .optional()
      .describe('The condition on the request; other requests are answered with 202.'),
    respond: mapping({
      status: wholeNumber('a status').optional().describe('The status. Default: 200.'),
      headers: named(parameter()).optional().describe('Headers of the response.'),
      json: jsonValue().optional().describe('A JSON body.'),
      text: text().optional().describe('A plain text body.'),
    })
      .optional()
      .describe('The response to the request. Default: 204.'),
    expect: expectations().optional().describe('Expectations on the request.'),
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
