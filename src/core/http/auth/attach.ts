import { named, parameter, type Named } from '../../schema/leaves.ts';
import { mapping } from '../../schema/shape.ts';
import { fillValue } from '../../template/fill.ts';
import { textsOf, type TextTemplate, type ValueTemplate } from '../../template/template.ts';
import { textOf } from '../../value/text.ts';
import { Bytes, DateTime, LongBytes, type Value } from '../../value/value.ts';
import { splitUrl, type HttpRequest } from '../message.ts';
import { computed, computedNames, type ComputedNames } from './computed-names.ts';
import type { AuthScheme, Credential, Signing } from './definition.ts';

/** Headers and parameters that a scheme of the API's own adds, with names that they read. */
export type Attach = Readonly<{ let?: ComputedNames; headers?: Named<ValueTemplate>; query?: Named<ValueTemplate> }>;

export const attachSchema = mapping({
  let: computedNames().optional().describe('Names computed once for each request; each may read those above it.'),
  headers: named(parameter()).optional().describe('Headers to add.'),
  query: named(parameter()).optional().describe('Query parameters to add.'),
});

/** A signature of the API's own making: its placeholders see the request as it is about to be sent. */
export const attach: AuthScheme<Attach> = {
  name: 'attach',
  schema: attachSchema.describe("Headers or parameters of the API's own scheme; their placeholders read request.*."),
  texts: attachTexts,
  secrets: () => [],
  names: (value) => ['request', ...namesOf(value)],
  authenticator: (value) => ({
    generation: 0,
    credentials: (request, signing) => attached(value, request, signing),
  }),
};

export function attachTexts({ let: computing = [], headers = [], query = [] }: Attach): readonly TextTemplate[] {
  return [...computing, ...headers, ...query].flatMap(({ value }) => textsOf(value));
}

export function namesOf({ let: computing = [] }: Attach): readonly string[] {
  return computing.map(({ name }) => name);
}

/** What it adds; in a record only the names, since the values are credentials whatever they are made of. */
export function attached(
  { let: computing = [], headers = [], query = [] }: Attach,
  request: HttpRequest,
  { resolver: plain, nowMs, withNames }: Signing,
  given: Readonly<Record<string, Value>> = {},
): readonly Credential[] {
  const names = () => computed(computing, { ...given, request: viewOf(request, nowMs) }, withNames);
  const resolver = plain.forRecord ? plain : withNames(names());
  const filled = (place: 'header' | 'query', entries: Named<ValueTemplate>) =>
    entries.flatMap(({ name, value }): readonly Credential[] => {
      if (resolver.forRecord) return [{ place, name, value: `‹${name}›` }];
      const given = fillValue(value, resolver);
      if (given === 'left-out' || given.value === null) return [];
      const text = textOf(given.value);
      return typeof text === 'string' ? [{ place, name, value: text }] : [];
    });
  return [...filled('header', headers), ...filled('query', query)];
}

/** The request as its placeholders see it: byte for byte as it will be sent. */
function viewOf({ method, url, body = '' }: HttpRequest, nowMs: number): Value {
  const { path } = splitUrl(url);
  const mark = path.indexOf('?');
  return {
    method,
    path: mark < 0 ? path : path.slice(0, mark),
    query: mark < 0 ? '' : path.slice(mark + 1),
    // Most schemes do not read it.
    get body(): Value {
      return asBytes(body);
    },
    time: new DateTime(nowMs),
  };
}

function asBytes(body: NonNullable<HttpRequest['body']>): Value {
  if (typeof body === 'string') return new Bytes(new TextEncoder().encode(body));
  return body instanceof Uint8Array ? new Bytes(body) : new LongBytes(() => body.pieces(), body.size);
}
