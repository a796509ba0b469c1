import { bodiesOf } from '../../http/bodies/list.ts';
import { expression, jsonValue, named, parameter, text, word } from '../../schema/leaves.ts';
import { duration, wholeNumber } from '../../schema/measures.ts';
import { mapping } from '../../schema/shape.ts';
import { stepKind } from './definition.ts';
import { type At, bindingParts, conditionPart, namedParts, textPart } from '../parts.ts';
import { expectationPart, expectations } from './expect/list.ts';

/** Names beside those of a response that a received request has. */
const OF_A_REQUEST = ['method', 'query'];

const WITHIN_MS = 5 * 60_000;

export const receive = stepKind({
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
  parts: ({ name, until, respond, expect, keep }) => {
    const received: At = { response: true, means: OF_A_REQUEST };
    return [
      ...conditionPart(until, received),
      ...namedParts(respond?.headers ?? [], 'header', { ...received, leftOut: true }),
      ...(respond?.body?.texts ?? []).flatMap((text) => textPart(text, 'body', received)),
      ...expect.map((each) => expectationPart(each, received)),
      ...bindingParts(keep, { what: 'keep', by: `received at ${name}`, at: { ...received, key: 'keep' } }),
    ];
  },
  nameOf: ({ name }) => name,
  sourceOf: ({ nameSource }) => nameSource,
});
