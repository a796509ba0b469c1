import type * as z from 'zod';
import type { Problem } from '../../diagnostics/problem.ts';
import { callAuth } from '../../http/auth/list.ts';
import { bodiesOf, bodyShape } from '../../http/bodies/list.ts';
import { choice, expression, flag, named, parameter, requestLine, word } from '../../schema/leaves.ts';
import type { Placed } from '../../schema/shape.ts';
import { entryOf, type YamlMap } from '../../yaml/tree.ts';
import type { CallStep } from '../model.ts';
import { timeout } from '../timeout.ts';
import { stepReader } from './definition.ts';
import { expectations } from './expect/list.ts';

/** `call`: one request, its expectations, and what is kept of the response. */
export const call = stepReader({
  key: 'call',
  about: 'Sends a request, judges the response and keeps values of it.',
  shape: callShape,
  read: stepOf,
});

function callShape() {
  return {
    call: word('the name of the call').describe('The name of the call, once in its file.'),
    request: requestLine().describe('METHOD and target, as the API documents them.'),
    api: word('the name of an api').optional().describe('The api, where it is not the chain’s.'),
    auth: callAuth().optional().describe('Credentials of this call, or none.'),
    query: named(parameter()).optional().describe('Query parameters by name; a list repeats one.'),
    headers: named(parameter()).optional().describe('Headers of the request.'),
    ...bodyShape,
    timeout: timeout.optional().describe('How long one request may take.'),
    changes: choice('no', 'yes')
      .optional()
      .describe('Whether it changes something at the server, where the method misleads.'),
    repeatable: flag()
      .optional()
      .describe('Whether it may safely be sent again, where the method misleads; such as a search.'),
    redirects: choice('follow', 'stop')
      .optional()
      .describe('Whether redirects are followed (default), or are the response.'),
    namespaces: named(word('a namespace URI')).optional().describe('Prefixes for xpath(), and their namespaces.'),
    expect: expectations().optional().describe('What must hold of the response.'),
    keep: named(expression()).optional().describe('Values of the response to keep, by name.'),
    'on-failure': choice('stop', 'continue')
      .optional()
      .describe('Whether a failure of this call ends the chain (default) or the steps behind it run all the same.'),
  };
}

type Given = z.output<z.ZodObject<ReturnType<typeof callShape>>>;

function stepOf(given: Given, { node, reading }: Placed<YamlMap>): Omit<CallStep, 'when'> {
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
    namespaces: Object.fromEntries((given.namespaces ?? []).map(({ name, value }) => [name, value.text])),
    redirects: given.redirects,
    changes: given.changes === undefined ? undefined : given.changes === 'yes',
    repeatable: given.repeatable,
    onFailure: given['on-failure'] ?? 'stop',
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
