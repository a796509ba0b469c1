import type * as z from 'zod';
import type { Problem } from '../../diagnostics/problem.ts';
import { callAuth } from '../../http/auth/list.ts';
import { bodiesOf, bodyShape, keysBesideBodies } from '../../http/bodies/list.ts';
import { READ_AS } from '../../http/decode.ts';
import {
  apiName,
  choice,
  expression,
  fileName,
  flag,
  named,
  parameter,
  requestLine,
  word,
} from '../../schema/leaves.ts';
import { namedOrWhole } from '../../schema/whole-object.ts';
import { byteSize, duration, rateLimit } from '../../schema/measures.ts';
import type { Body } from '../../http/bodies/definition.ts';
import type { Placed } from '../../schema/shape.ts';
import { entryOf, type YamlMap } from '../../yaml/tree.ts';
import type { CallStep, Step } from '../model.ts';
import { armsOf, onStatus } from '../on-status.ts';
import { idempotencyKey } from '../idempotency-key.ts';
import { paging } from '../paging.ts';
import { poll } from '../poll.ts';
import { freshFor } from '../fresh-for.ts';
import { retry } from '../retry.ts';
import { timeout } from '../timeout.ts';
import { undo } from '../undo.ts';
import { untilEvent } from '../until-event.ts';
import { stepKind } from './definition.ts';
import {
  type At,
  bindingParts,
  conditionPart,
  expressionPart,
  namedParts,
  requestPart,
  textPart,
  type Part,
} from '../parts.ts';
import { expectationPart, expectations } from './expect/list.ts';

/** `call`: one request, its expectations, and what is kept of the response. */
export const call = stepKind({
  key: 'call',
  about: 'Sends a request, evaluates expectations on the response, and keeps values of it.',
  shape: callShape,
  read: stepOf,
  parts: partsOfCall,
  sourceOf: ({ nameSource }) => nameSource,
});

function callShape(steps: () => z.ZodType<readonly Step[]>) {
  return {
    call: word('the name of the call').describe('The name of the call, unique in its file.'),
    request: requestLine().describe('METHOD and target, as the API documents them.'),
    api: apiName().optional().describe('The API, if it is not the one of the chain.'),
    auth: callAuth().optional().describe('Credentials of this call; none sends without credentials.'),
    query: namedOrWhole(parameter()).optional().describe('Query parameters by name; an array repeats a parameter.'),
    headers: namedOrWhole(parameter()).optional().describe('Headers of the request.'),
    ...bodyShape,
    type: word('a media type')
      .optional()
      .describe("The media type of the body, if it differs from the default of the body's key."),
    'idempotency-key': idempotencyKey()
      .optional()
      .describe('true creates a key that stays the same on every attempt; a string is the key itself.'),
    timeout: timeout.optional().describe('The time limit of one request.'),
    changes: flag()
      .optional()
      .describe('Whether the call changes something at the server, if the method does not tell.'),
    repeatable: flag()
      .optional()
      .describe('Whether the request may safely be sent again, if the method does not tell.'),
    redirects: choice('follow', 'stop')
      .optional()
      .describe('follow: redirects are followed (the default); stop: they are the response.'),
    'read-as': choice(...READ_AS)
      .optional()
      .describe('The format to read the body as, whatever its media type.'),
    save: fileName().optional().describe('A file for the body; $ is then its path, size, type and sha256.'),
    replace: flag().optional().describe('Whether a file name with a placeholder may replace a file that exists.'),
    'max-body': byteSize()
      .optional()
      .describe(
        'The largest body. Default: 64MiB in memory, 1GiB on the disk (with save, or a long array for a loop).',
      ),
    paging: paging().optional().describe('How further pages of the response are requested.'),
    poll: poll().optional().describe('Sends the request again until a condition on the response is true.'),
    retry: retry().optional().describe('How the request is retried when it fails: tries, wait, on.'),
    'max-wait': duration().optional().describe("The longest time to wait for a server's Retry-After. Default: 1m."),
    'rate-limit': rateLimit().optional().describe('A stricter rate limit of this call, within that of its API.'),
    'fresh-for': freshFor(),
    'until-event': untilEvent().optional().describe('When to stop reading a stream of events.'),
    namespaces: named(word('a namespace URI')).optional().describe('Namespaces for xpath(), by prefix.'),
    expect: expectations().optional().describe('Expectations on the response.'),
    keep: named(expression()).optional().describe('Values of the response to keep, by name.'),
    undo: undo().optional().describe('The request that undoes this call, sent when the chain of the run ends.'),
    'on-failure': choice('stop', 'continue')
      .optional()
      .describe('stop: a failure of this call ends the chain (the default); continue: the steps after it run.'),
    'on-status': onStatus(steps)
      .optional()
      .describe('Steps by status: with it the call does not fail, and they are run.'),
  };
}

type Given = z.output<z.ZodObject<ReturnType<typeof callShape>>>;

function stepOf(given: Given, { node, reading }: Placed<YamlMap>): Omit<CallStep, 'when' | 'once'> {
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
    replace: given.replace ?? false,
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
    freshFor: given['fresh-for'],
    undo: given.undo,
    onFailure: given['on-failure'] ?? 'stop',
    onStatus: armsOf(given['on-status'], reading.report),
  };
}

function partsOfCall(step: CallStep): readonly Part[] {
  const { save, untilEvent, paging: pages, poll: polled, expect, undo: undone } = step;
  const at: At = { key: 'expect', response: true };
  const ofPages: At = { ...at, key: 'paging' };
  const ofPoll: At = { ...at, key: 'poll' };
  return [
    requestPart(step.request),
    ...textPart(save, 'file-written', { key: 'save' }),
    ...conditionPart(untilEvent?.until, { ...at, key: 'until-event' }),
    ...[pages?.next, pages?.items].flatMap((each) => expressionPart(each, ofPages)),
    ...conditionPart(pages?.while, ofPages),
    ...namedParts(pages?.query ?? [], 'query', { ...ofPages, leftOut: true }),
    ...[polled?.until, polled?.giveUpWhen].flatMap((each) => conditionPart(each, ofPoll)),
    ...expressionPart(polled?.progress, ofPoll),
    ...expressionPart(step.retry?.after, { ...at, key: 'retry' }),

    ...expect.map((each) => expectationPart(each, at)),
    ...keptParts(step, { ...at, key: 'keep' }),
    ...(undone ? [requestPart(undone.request, 'undo'), ...undone.expect.map((each) => expectationPart(each, at))] : []),
  ];
}

/** What the call keeps; where it has arms for statuses each of them may keep the same in its place. */
function keptParts({ name, keep, onFailure, onStatus: arms }: CallStep, at: At): readonly Part[] {
  const under = onFailure === 'continue' ? [`${name} passed`] : [];
  const parts = bindingParts(keep, { what: 'keep', by: `kept by ${name}`, under, at });
  return arms.length === 0 ? parts : [{ sort: 'answers', of: name, parts, arms }];
}

/** Keys that go with one response and not with many. */
const BESIDE_MANY = ['save', 'until-event'];

/** Keys that add to a body which is not there. */
function strayKeys(node: YamlMap, bodies: readonly Body[]): readonly Problem[] {
  const problem = (key: string, message: string): readonly Problem[] => {
    const entry = entryOf(node, key);
    return entry ? [{ code: 'keys-clash', range: entry.keyRange, message, advice: 'Remove it.' }] : [];
  };
  const has = (key: string) => bodies.some((body) => body.key === key);
  const [paging, poll] = [entryOf(node, 'paging'), entryOf(node, 'poll')];
  const many = paging ? 'paging' : 'poll';
  const clashing = paging ? [...BESIDE_MANY, 'on-status'] : poll ? BESIDE_MANY : [];
  const several = entryOf(node, 'idempotency-key') ?? (paging && poll);
  return [
    ...clashing.flatMap((key) => problem(key, `"${key}" cannot be combined with ${many}`)),
    ...((paging || poll) && several
      ? [
          {
            code: 'poll-with-paging' as const,
            range: several.keyRange,
            ...tooMuch(paging !== undefined && poll !== undefined, many),
          },
        ]
      : []),
    ...(entryOf(node, 'save') ? [] : problem('replace', '"replace" requires save')),
    ...keysBesideBodies.flatMap((each) =>
      each.with.some(has) ? [] : problem(each.key, `"${each.key}" requires ${each.with.join(' or ')}`),
    ),
    ...(bodies.length === 0 ? problem('type', 'There is no body that this media type could belong to') : []),
    ...(has('multipart') ? problem('type', 'The media type of multipart contains its boundary and cannot be set') : []),
  ];
}

function tooMuch(isBoth: boolean, many: string): Readonly<{ message: string; advice: string }> {
  if (isBoth)
    return {
      message: 'A call cannot both poll and read pages',
      advice: 'Use two calls: one that polls, one that reads the pages.',
    };
  const message = `A call with ${many} sends several requests, and an idempotency key identifies one`;
  return { message, advice: 'Remove it.' };
}

function twoBodies(node: YamlMap, keys: readonly string[]): Problem {
  const range = entryOf(node, keys[1]!)!.keyRange;
  return {
    code: 'two-bodies',
    range,
    message: `A request has one body, and this call has ${keys.join(' and ')}`,
    advice: 'Remove one of them.',
  };
}
