import { named, parameter, type Named } from '../../schema/leaves.ts';
import { mapping } from '../../schema/shape.ts';
import { fillValue, type Resolver } from '../../template/fill.ts';
import { textsOf, type TextTemplate, type ValueTemplate } from '../../template/template.ts';
import { textOf } from '../../value/text.ts';
import { Bytes, DateTime, LongBytes, type Value } from '../../value/value.ts';
import { splitUrl, type HttpRequest } from '../message.ts';
import type { AuthScheme, Credential } from './definition.ts';

/** Headers and parameters that a scheme of the API's own adds. */
export type Attach = Readonly<{ headers?: Named<ValueTemplate>; query?: Named<ValueTemplate> }>;

export const attachSchema = mapping({
  headers: named(parameter()).optional().describe('Headers to add.'),
  query: named(parameter()).optional().describe('Query parameters to add.'),
});

/** A signature of the API's own making: its placeholders see the request as it is about to be sent. */
export const attach: AuthScheme<Attach> = {
  name: 'attach',
  schema: attachSchema.describe("Headers or parameters of the API's own scheme; their placeholders read request.*."),
  texts: attachTexts,
  secrets: () => [],
  names: ['request'],
  authenticator: (value) => ({
    generation: 0,
    credentials: (request, { resolver, nowMs, withNames }) =>
      attached(value, resolver.forRecord ? resolver : withNames({ request: viewOf(request, nowMs) })),
  }),
};

export function attachTexts({ headers = [], query = [] }: Attach): readonly TextTemplate[] {
  return [...headers, ...query].flatMap(({ value }) => textsOf(value));
}

/** What it adds; in a record only the names, since the values are credentials whatever they are made of. */
export function attached({ headers = [], query = [] }: Attach, resolver: Resolver): readonly Credential[] {
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
  const content = typeof body === 'string' ? new Bytes(new TextEncoder().encode(body)) : asBytes(body);
  return {
    method,
    path: mark < 0 ? path : path.slice(0, mark),
    query: mark < 0 ? '' : path.slice(mark + 1),
    body: content,
    time: new DateTime(nowMs),
  };
}

function asBytes(body: Exclude<HttpRequest['body'], string | undefined>): Value {
  return body instanceof Uint8Array ? new Bytes(body) : new LongBytes(() => body.pieces(), body.size);
}
