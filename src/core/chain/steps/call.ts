import type * as z from 'zod';
import type { Problem } from '../../diagnostics/problem.ts';
import { callAuth } from '../../http/auth/list.ts';
import { bodiesOf, bodyShape, keysBesideBodies } from '../../http/bodies/list.ts';
import { READ_AS } from '../../http/decode.ts';
import { choice, expression, fileName, flag, named, parameter, requestLine, word } from '../../schema/leaves.ts';
import { byteSize, duration, rateLimit } from '../../schema/measures.ts';
import type { Body } from '../../http/bodies/definition.ts';
import type { Placed } from '../../schema/shape.ts';
import { entryOf, type YamlMap } from '../../yaml/tree.ts';
import type { CallStep } from '../model.ts';
import { idempotencyKey } from '../idempotency-key.ts';
import { paging } from '../paging.ts';
import { poll } from '../poll.ts';
import { retry } from '../retry.ts';
import { timeout } from '../timeout.ts';
import { undo } from '../undo.ts';
import { untilEvent } from '../until-event.ts';
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
    type: word('a media type').optional().describe('The media type of the body, where it is not the one of its key.'),
    'idempotency-key': idempotencyKey()
      .optional()
      .describe('A key by which the server knows a request that is sent again: true makes one, a text is one.'),
    timeout: timeout.optional().describe('How long one request may take.'),
    changes: flag().optional().describe('Whether it changes something at the server, where the method misleads.'),
    repeatable: flag()
      .optional()
      .describe('Whether it may safely be sent again, where the method misleads; such as a search.'),
    redirects: choice('follow', 'stop')
      .optional()
      .describe('Whether redirects are followed (default), or are the response.'),
    'read-as': choice(...READ_AS)
      .optional()
      .describe('What the body is read as, whatever its media type says.'),
    save: fileName().optional().describe('A file for the body; $ is then its path, size, type and sha256.'),
    'max-body': byteSize().optional().describe('How large a body may be that is held; 64MiB unless said.'),
    paging: paging().optional().describe('How the pages of the response follow each other.'),
    poll: poll().optional().describe('Looks again and again, until a condition on the response holds.'),
    retry: retry().optional().describe('How it is tried again when it failed: tries, wait, on.'),
    'max-wait': duration().optional().describe('How long a server that says when to come again is waited for; 1m.'),
    'rate-limit': rateLimit().optional().describe('A stricter pace of this call, inside that of its api.'),
    'fresh-for': duration().optional().describe('A recorded response that is not older is used instead of sending.'),
    'until-event': untilEvent().optional().describe('When to stop listening to a stream of events.'),
    namespaces: named(word('a namespace URI')).optional().describe('Prefixes for xpath(), and their namespaces.'),
    expect: expectations().optional().describe('What must hold of the response.'),
    keep: named(expression()).optional().describe('Values of the response to keep, by name.'),
    undo: undo().optional().describe('How to take back what the call made: a request, sent when the run’s chain ends.'),
    'on-failure': choice('stop', 'continue')
      .optional()
      .describe('Whether a failure of this call ends the chain (default) or the steps behind it run all the same.'),
  };
}

type Given = z.output<z.ZodObject<ReturnType<typeof callShape>>>;

function stepOf(given: Given, { node, reading }: Placed<YamlMap>): Omit<CallStep, 'when'> {
  const bodies = bodiesOf(given, given.type);
  for (const { source, problem } of bodies.flatMap(({ problems }) => problems)) {
    reading.report({ ...problem, range: source.locate(problem.range) });
  }
  for (const problem of strayKeys(node, bodies)) reading.report(problem);
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
      idempotencyKey: given['idempotency-key'],
    },
    timeouts: given.timeout,
    expect: given.expect ?? [],
    keep: given.keep ?? [],
    namespaces: Object.fromEntries((given.namespaces ?? []).map(({ name, value }) => [name, value.text])),
    readAs: given['read-as'],
    save: given.save,
    maxBodyBytes: given['max-body'],
    untilEvent: given['until-event'],
    paging: given.paging,
    redirects: given.redirects,
    changes: given.changes,
    repeatable: given.repeatable,
    poll: given.poll,
    retry: given.retry,
    maxWaitMs: given['max-wait'],
    rateLimit: given['rate-limit'],
    freshForMs: given['fresh-for'],
    undo: given.undo,
    onFailure: given['on-failure'] ?? 'stop',
  };
}

/** Keys that add to a body which is not there. */
function strayKeys(node: YamlMap, bodies: readonly Body[]): readonly Problem[] {
  const problem = (key: string, message: string): readonly Problem[] => {
    const entry = entryOf(node, key);
    return entry ? [{ code: 'keys-clash', range: entry.keyRange, message, advice: 'Leave it out.' }] : [];
  };
  const has = (key: string) => bodies.some((body) => body.key === key);
  const [paging, poll] = [entryOf(node, 'paging'), entryOf(node, 'poll')];
  const many = paging ? 'paging' : 'poll';
  const clashing = paging || poll ? ['save', 'until-event'] : [];
  const several = entryOf(node, 'idempotency-key') ?? (paging && poll);
  return [
    ...clashing.flatMap((key) => problem(key, `"${key}" does not go with ${many}`)),
    ...((paging || poll) && several
      ? [
          {
            code: 'poll-with-paging' as const,
            range: several.keyRange,
            ...tooMuch(paging !== undefined && poll !== undefined, many),
          },
        ]
      : []),
    ...keysBesideBodies.flatMap((each) =>
      has(each.with) ? [] : problem(each.key, `"${each.key}" goes with ${each.with}, which is not here`),
    ),
    ...(bodies.length === 0 ? problem('type', 'There is no body whose media type this could be') : []),
    ...(has('multipart') ? problem('type', 'The media type of multipart says how its parts are told apart') : []),
  ];
}

function tooMuch(isBoth: boolean, many: string): Readonly<{ message: string; advice: string }> {
  if (isBoth)
    return {
      message: 'A call that polls cannot turn pages too',
      advice: 'Use two calls: one that waits, one that reads the pages.',
    };
  const message = `A call with ${many} sends several requests, and one idempotency key stands for one request`;
  return { message, advice: 'Leave it out.' };
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
