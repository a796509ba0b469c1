import { sourceOf } from '../judge.ts';
import type { CallStep } from '../../chain/model.ts';
import type { Source } from '../../diagnostics/source.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import type { HttpRequest } from '../../http/message.ts';
import { crypto } from '../../packages.ts';
import type { RunHost } from '../host.ts';
import type { CallSite } from './site.ts';
import { buildRequest } from '../../http/build-request.ts';
import type { Resolver } from '../../template/fill.ts';
import { Mask } from '../../value/value.ts';
import { catchFillFault } from '../fill.ts';
import { authOf } from './build.ts';
import { digestOf } from './record.ts';

/** What the fingerprints are of: raised when the same text comes to mean another request. */
const LANGUAGE = 1;
/** Headers that say nothing of what is meant by a request. */
const UNSTABLE = new Set(['user-agent', 'idempotency-key']);

/**
 * What goes over the wire for a call: its first request as its record shows it, without credentials, and the definitions that
 * decide about the requests behind it. Two calls of one print are the same to the server.
 */
export function requestFingerprint(
  shown: HttpRequest,
  { step, endpoint, context }: Pick<CallSite, 'step' | 'endpoint' | 'context'>,
): string {
  const { method, url, headers, body } = shown;
  const { api = '', deployment = null } = endpoint ?? {};
  return context.runHost.keyedHash(
    JSON.stringify([
      LANGUAGE,
      method,
      url,
      headers.filter(([name]) => !UNSTABLE.has(name.toLowerCase())),
      body === undefined ? null : digestOf(body),
      api,
      deployment,
      definitionOf(step, endpoint),
    ]),
  );
}

type Known = WeakMap<CallStep, Map<Endpoint | undefined, string>>;
const definitions: Known = new WeakMap();
const judgements: Known = new WeakMap();
const texts: Known = new WeakMap();

/** What files say of a call at an endpoint is the same for all of a run, and worked out once. */
function once(known: Known, step: CallStep, endpoint: Endpoint | undefined, make: () => string): string {
  let made = known.get(step);
  if (!made) known.set(step, (made = new Map<Endpoint | undefined, string>()));
  let text = made.get(endpoint);
  if (text === undefined) made.set(endpoint, (text = make()));
  return text;
}

function definitionOf(step: CallStep, endpoint: Endpoint | undefined): string {
  return once(definitions, step, endpoint, () => {
    const { redirects, readAs, namespaces, save, paging, poll, untilEvent } = step;
    const auth = authOf(step.request, endpoint);
    return asWritten([
      auth && [auth.scheme, auth.texts],
      redirects,
      readAs,
      namespaces,
      save,
      paging,
      poll,
      untilEvent,
    ]);
  });
}

/**
 * The request of a call as its files say it, each placeholder standing for itself: what tells before anything is evaluated
 * whether a call was edited. Nothing where it cannot be built so.
 */
export function requestText(step: CallStep, endpoint: Endpoint | undefined, runHost: RunHost): string {
  return once(texts, step, endpoint, () => {
    const host = { openFile: (path: string) => runHost.openFile(path), namedFiles: runHost.namedFiles, boundary: '' };
    const built = catchFillFault(() =>
      buildRequest({ request: step.request, endpoint, resolver: SYMBOLIC, host, userAgent: '' }),
    );
    if ('problem' in built) return '';
    const { method, url, headers, body } = built.value.request;
    const key = step.request.idempotencyKey === undefined ? null : true;
    const content = body === undefined ? null : digestOf(body);
    return runHost.keyedHash(
      JSON.stringify([LANGUAGE, method, url, headers, content, key, definitionOf(step, endpoint)]),
    );
  });
}

/** Fills each placeholder with its own text. */
const SYMBOLIC: Resolver = {
  value: ({ source, node }) => new Mask(source.text.slice(...node.range)),
  leavesOut: () => false,
  forRecord: true,
};

/** Definitions as they are written: an expression or a text is its source, places do not count. */
function asWritten(value: unknown): string {
  return JSON.stringify(value, (_name, each: unknown) => {
    const isWritten = typeof each === 'object' && each !== null && 'source' in each;
    return isWritten ? (each.source as Source).text.trim() : each;
  });
}

/** What a response is judged by and what is kept of it, files and schemas by their content. */
export function assertionFingerprint(step: CallStep, endpoint: Endpoint | undefined, runHost: RunHost): string {
  return once(judgements, step, endpoint, () => {
    const entries = [...(endpoint?.expect ?? []), ...step.expect].map((each) => {
      const file = each.form === 'schema' && 'file' in each.schema ? each.schema.file.text : undefined;
      const read = file === undefined ? undefined : runHost.readFile(file);
      const content = read && 'bytes' in read ? crypto().createHash('sha256').update(read.bytes).digest('hex') : '';
      return [each.form, sourceOf(each).text.trim(), content];
    });
    const kept = step.keep.map(({ name, value }) => [name, value.source.text.trim()]);
    return runHost.keyedHash(JSON.stringify([entries, kept, endpoint?.errorMessage?.source.text ?? null]));
  });
}
