import type * as z from 'zod';
import { bodiesOf } from '../../http/bodies/list.ts';
import { expression, jsonValue, named, parameter, text, word } from '../../schema/leaves.ts';
import { duration, wholeNumber } from '../../schema/measures.ts';
import { mapping } from '../../schema/shape.ts';
import type { Respond } from '../model.ts';
import { verify, type VerifyRule } from '../verify.ts';
import { stepKind } from './definition.ts';
import { bindingParts, conditionPart, expressionPart, namedParts, textPart, type At, type Part } from '../parts.ts';
import { expectationPart, expectations } from './expect/list.ts';

/** Names beside those of a response that a received request has. */
const OF_A_REQUEST = ['method', 'query'];

const WITHIN_MS = 5 * 60_000;

const response = () =>
  mapping({
    status: wholeNumber('a status').optional().describe('The status. Default: 200, of refuse 401.'),
    headers: named(parameter()).optional().describe('Headers of the response.'),
    json: jsonValue().optional().describe('A JSON body.'),
    text: text().optional().describe('A plain text body.'),
  });

function respondOf(given: z.output<ReturnType<typeof response>>, status: number): Respond {
  return { status: given.status ?? status, headers: given.headers ?? [], body: bodiesOf(given, undefined)[0] };
}

export const receive = stepKind({
  key: 'receive',
  about: 'Waits for a callback; $, headers, method, url and query are those of the received request.',
  shape: () => ({
    receive: word('the name of a listen').describe('The name of the address in listen.'),
    within: duration().optional().describe('The time limit. Default: 5m.'),
    until: expression('a condition')
      .optional()
      .describe('The condition on the request; other requests are answered with 202.'),
    verify: verify().optional().describe('The signature that the request must have.'),
    respond: response().optional().describe('The response to the request. Default: 204.'),
    refuse: response().optional().describe('The response to a request that verify refuses. Default: 401.'),
    expect: expectations().optional().describe('Expectations on the request.'),
    keep: named(expression()).optional().describe('Values of the request to keep, by name.'),
  }),
  read: (given) => ({
    kind: 'receive',
    name: given.receive.text,
    nameSource: given.receive,
    withinMs: given.within ?? WITHIN_MS,
    until: given.until,
    verify: given.verify,
    respond: given.respond && respondOf(given.respond, 200),
    refuse: given.refuse && respondOf(given.refuse, 401),
    expect: given.expect ?? [],
    keep: given.keep ?? [],
  }),
  parts: ({ name, until, verify: rule, respond, refuse, expect, keep }) => {
    const received: At = { response: true, means: OF_A_REQUEST };
    return [
      ...conditionPart(until, received),
      ...verifyParts(rule, received),
      ...[respond, refuse].flatMap((each) => [
        ...namedParts(each?.headers ?? [], 'header', { ...received, leftOut: true }),
        ...(each?.body?.texts ?? []).flatMap((part) => textPart(part, 'body', received)),
      ]),
      ...expect.map((each) => expectationPart(each, received)),
      ...bindingParts(keep, { what: 'keep', by: `received at ${name}`, at: { ...received, key: 'keep' } }),
    ];
  },
  nameOf: ({ name }) => name,
  sourceOf: ({ nameSource }) => nameSource,
});

/** The parts of a signature; those that read the request stand at a place of their own. */
function verifyParts(rule: VerifyRule | undefined, received: At): readonly Part[] {
  if (!rule) return [];
  const at = { ...received, key: 'verify' };
  return [
    ...rule.keys.flatMap((key) => textPart(key, 'credential', { key: 'verify' })),
    ...rule.message.flatMap((each) => expressionPart(each, at)),
    ...expressionPart(rule.time, at),
  ];
}
