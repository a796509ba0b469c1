import type * as z from 'zod';
import type { Problem } from '../../diagnostics/problem.ts';
import { callAuth } from '../../http/auth/list.ts';
import { bodiesOf, bodyShape } from '../../http/bodies/list.ts';
import { expression, named, parameter, requestLine, word } from '../../schema/leaves.ts';
import { mapping, readShape, type Placed } from '../../schema/shape.ts';
import { entryOf, type YamlMap } from '../../yaml/tree.ts';
import type { BrokenStep, CallStep } from '../model.ts';
import { suggestAmong } from '../suggest-key.ts';
import { timeout } from '../timeout.ts';
import { expectations } from './expect.ts';
import type { StepReader } from './definition.ts';

const schema = mapping({
  call: word('the name of the call').describe('The name of the call, once in its file.'),
  about: word().optional().describe('What the call is for.'),
  request: requestLine().describe('METHOD and target, as the API documents them.'),
  api: word('the name of an api').optional().describe('The api, where it is not the chain’s.'),
  auth: callAuth().optional().describe('Credentials of this call, or none.'),
  query: named(parameter()).optional().describe('Query parameters by name; a list repeats one.'),
  headers: named(parameter()).optional().describe('Headers of the request.'),
  ...bodyShape,
  timeout: timeout.optional().describe('How long one request may take.'),
  expect: expectations().optional().describe('What must hold of the response.'),
  keep: named(expression()).optional().describe('Values of the response to keep, by name.'),
});

/** `call`: one request, its expectations, and what is kept of the response. */
export const call: StepReader = {
  key: 'call',
  read: (placed) => {
    const given = readShape(schema, placed, suggestAmong(schema.shape));
    return given ? stepOf(given, placed) : brokenCall(placed);
  },
};

function stepOf(given: z.output<typeof schema>, { node, reading }: Placed<YamlMap>): CallStep {
  const bodies = bodiesOf(given);
  if (bodies.length > 1)
    reading.report(
      twoBodies(
        node,
        bodies.map((body) => body.key),
      ),
    );
  return {
    kind: 'call',
    name: given.call.text,
    nameSource: given.call,
    api: given.api,
    request: {
      line: given.request,
      query: given.query ?? [],
      headers: given.headers ?? [],
      body: bodies[0],
      auth: given.auth,
    },
    timeouts: given.timeout,
    expect: given.expect ?? [],
    keep: given.keep ?? [],
  };
}

function twoBodies(node: YamlMap, keys: readonly string[]): Problem {
  const range = entryOf(node, keys[1]!)!.keyRange;
  return {
    code: 'two-bodies',
    range,
    message: `A request has one body, and here are ${keys.join(' and ')}`,
    advice: 'Leave one of them.',
  };
}

function brokenCall({ node }: Placed<YamlMap>): BrokenStep {
  const keep = entryOf(node, 'keep')?.value;
  return { kind: 'broken', binds: keep?.kind === 'map' ? keep.entries.map(({ key }) => key) : [] };
}
