import type { Problem, Range } from '../diagnostics/problem.ts';
import { wholeOf, type Source } from '../diagnostics/source.ts';
import type { Named, NamedEntry } from '../schema/leaves.ts';
import { fillFault, fillText, fillValue, parameterValues, type Resolver } from '../template/fill.ts';
import { fillTarget, queryPair } from '../template/target.ts';
import { entriesOf } from '../schema/whole-object.ts';
import type { ValueTemplate } from '../template/template.ts';
import { NoUriForm } from '../template/uri-template.ts';
import { formDecoded } from '../value/percent.ts';
import { showValue } from '../value/show.ts';
import type { Value } from '../value/value.ts';
import type { Credential } from './auth/definition.ts';
import type { Endpoint, RequestTemplate } from './endpoint.ts';
import { headerNameProblem, headerText, SECRET_HEADERS } from './headers.ts';
import {
  headerOf,
  isHttpUrl,
  isSameName,
  originKey,
  type Header,
  type HttpRequest,
  type RequestBody,
} from './message.ts';
import type { BodyHost } from './bodies/definition.ts';

export type BuildContext = Readonly<{
  request: RequestTemplate;
  /** The api of the call; absent for an absolute URL outside of any project. */
  endpoint: Endpoint | undefined;
  /** Fills the placeholders of the chain file, and those of the project file. */
  resolver: Resolver;
  host: BodyHost;
  userAgent: string;
  /** Of a request to which a server led: where the first one went, and which values are secret. */
  led?: Readonly<{ from: string; isSecret(value: ValueTemplate): boolean; dropped(name: string): void }>;
}>;

/** A request without credentials, and whether it goes to the api's own origin, where alone they may go. */
export type BuiltRequest = Readonly<{ request: HttpRequest; isOwn: boolean }>;

/**
 * Builds a request from a call and its api: target, query, headers, body, in this order. Run with a resolver that gives
 * masks for secrets, it builds the record of the same request instead. Headers and query of the api go to the api's own
 * origin and nowhere else. Throws `FillFault`.
 */
export function buildRequest(context: BuildContext, page?: PageRequest): BuiltRequest {
  const { endpoint, resolver, host } = context;
  const request = page && 'query' in page ? withParameters(context.request, page.query) : context.request;
  const line = request.line!;
  const base = endpoint && fillText(endpoint.url, resolver);
  if (page && 'url' in page)
    return assembled(context, {
      method: line.method,
      url: page.url,
      body: request.body?.build(resolver, host),
      isOwn: isOwnOrigin(page.url, base),
    });
  const filled = resolveTarget(context, base, fillTarget(line.target, resolver));
  const target =
    page && 'query' in page
      ? withoutParameters(
          filled,
          page.query.map(({ name }) => name),
        )
      : filled;
  if (!resolver.forRecord && !isHttpUrl(target)) refuseTarget(target, line.source);
  const isOwn = isOwnOrigin(target, base);
  const query = queryOf(isOwn ? endpoint!.query : [], request.query, resolver);
  const body = request.body?.build(resolver, host);
  return assembled(context, { method: line.method, url: withQuery(target, query), body, isOwn });
}

/** A page behind the first: its URL as the API gave it, or parameters in place of those of the same name. */
export type PageRequest = Readonly<{ url: string }> | Readonly<{ query: Named<ValueTemplate> }>;

function withParameters(request: RequestTemplate, query: Named<ValueTemplate>): RequestTemplate {
  const names = new Set(query.map(({ name }) => name));
  return { ...request, query: [...request.query.filter(({ name }) => !names.has(name)), ...query] };
}

/** A URL without the parameters of some names. */
function withoutParameters(url: string, names: readonly string[]): string {
  const mark = url.indexOf('?');
  if (mark < 0) return url;
  const kept = url
    .slice(mark + 1)
    .split('&')
    .filter((pair) => !names.includes(formDecoded(pair.split('=')[0]!)));
  return url.slice(0, mark) + (kept.length > 0 ? `?${kept.join('&')}` : '');
}

/** The request that follows a redirect: the same headers, and those of the api at the api's own origin alone. */
export function buildRedirected(
  context: BuildContext,
  { url, method, keepsBody }: Readonly<{ url: string; method: string; keepsBody: boolean }>,
): BuiltRequest {
  const { request, endpoint, resolver, host } = context;
  const base = endpoint && fillText(endpoint.url, resolver);
  const body = keepsBody ? request.body?.build(resolver, host) : undefined;
  return assembled(context, { method, url, body, isOwn: isOwnOrigin(url, base) });
}

function isOwnOrigin(url: string, base: string | undefined): boolean {
  // A mask stands for a URL that is not shown.
  return base !== undefined && isHttpUrl(url) && originKey(url) === originKey(base);
}

type Parts = Readonly<{ method: string; url: string; body: RequestBody | undefined; isOwn: boolean }>;

function assembled(context: BuildContext, { method, url, body, isOwn }: Parts): BuiltRequest {
  const { request, endpoint, resolver, host } = context;
  const hasBody = request.body !== undefined && body !== undefined;
  const type: readonly Header[] = hasBody ? [['Content-Type', request.body.type(host.boundary)]] : [];
  const headers = mergeHeaders([
    ['Accept', '*/*'],
    ['Accept-Encoding', 'gzip, deflate, br'],
    ['User-Agent', context.userAgent],
    ...type,
    ...(isOwn ? headersOf(endpoint!.headers, resolver) : []),
    ...headersOf(carried(context, url, isOwn), resolver).filter(
      ([name]) => body !== undefined || !/^content-/i.test(name),
    ),
  ]);
  return { request: { method, url, headers, ...(body === undefined ? {} : { body }) }, isOwn };
}

/** The headers of a call as far as they may go to a URL: where a server led to another origin, without what is secret. */
function carried({ request, led, resolver }: BuildContext, url: string, isOwn: boolean): RequestTemplate['headers'] {
  if (!led || isOwn || originKey(url) === originKey(led.from)) return request.headers;
  const kept = (isDropped: (entry: NamedEntry<ValueTemplate>) => boolean) => (entry: NamedEntry<ValueTemplate>) => {
    const isKept = !isDropped(entry);
    if (!isKept) led.dropped(entry.name);
    return isKept;
  };
  const open = request.headers.filter(kept(({ value }) => led.isSecret(value)));
  return entriesOf(open, resolver).filter(kept(({ name }) => SECRET_HEADERS.has(name.toLowerCase())));
}

/** A request with its credentials: headers in place of those of the same name, parameters last, cookies beside others. */
export function withCredentials(request: HttpRequest, credentials: readonly Credential[]): HttpRequest {
  if (credentials.length === 0) return request;
  const inPlace = (wanted: Credential['place']) => credentials.filter(({ place }) => place === wanted);
  const query = inPlace('query').map(({ name, value }) => queryPair(name, value));
  const cookies = inPlace('cookie').map(({ name, value }) => `${name}=${value}`);
  const headers = inPlace('header').map(({ name, value }): Header => [name, value]);
  return withCookies(
    { ...request, url: withQuery(request.url, query), headers: mergeHeaders([...request.headers, ...headers]) },
    cookies.length === 0 ? undefined : cookies.join('; '),
  );
}

/** A request with cookies behind those that it has, in its one Cookie header (RFC 6265 section 5.4). */
export function withCookies(request: HttpRequest, cookies: string | undefined): HttpRequest {
  if (cookies === undefined) return request;
  const before = headerOf(request.headers, 'cookie');
  const all = before === undefined ? cookies : `${before}; ${cookies}`;
  return { ...request, headers: mergeHeaders([...request.headers, ['Cookie', all]]) };
}

/** A URL that a response gave may be of any scheme, or none. */
function refuseTarget(target: string, source: Source): never {
  const message = `This is ${showValue(target, 60)}, and requests are sent to http and https URLs only`;
  return fillFault(source, { code: 'invalid-target', range: wholeOf(source), message });
}

function resolveTarget({ request }: BuildContext, base: string | undefined, target: string): string {
  const { target: template, source } = request.line!;
  if (template.kind === 'absolute') return target;
  if (base === undefined) {
    const message = 'A target that is not an absolute URL needs an API';
    fillFault(source, {
      code: 'invalid-target',
      range: [0, source.text.length],
      message,
      advice: 'Write the whole URL, or name an API.',
    });
  }
  if (template.kind === 'path') return base + target;
  // A reference resolves against the api's URL with "/" at its end (RFC 3986 section 5); masks are not URLs.
  if (/^[\u2039{]|^https?:\/\//i.test(target)) return target;
  if (!URL.canParse(target, `${base}/`)) refuseTarget(target, source);
  return new URL(target, `${base}/`).href;
}

/** The same parameter in the call replaces the api's. */
function queryOf(ofApi: Named<ValueTemplate>, ofCall: Named<ValueTemplate>, resolver: Resolver): readonly string[] {
  const own = entriesOf(ofCall, resolver);
  const replaced = new Set(own.map(({ name }) => name));
  return [...ofApi.filter(({ name }) => !replaced.has(name)), ...own].flatMap((entry) => {
    return parameterValues(entry.value, resolver).map((value) => parameterText(entry, value));
  });
}

function parameterText(entry: NamedEntry<ValueTemplate>, value: Value): string {
  try {
    return queryPair(entry.name, value);
  } catch (error) {
    if (!(error instanceof NoUriForm)) throw error;
    const message = `The parameter "${entry.name}" is ${error.reason.what}, which cannot be part of a URL`;
    return faultAt(entry, { code: 'invalid-value', message, advice: error.reason.advice });
  }
}

function headersOf(entries: Named<ValueTemplate>, resolver: Resolver): readonly Header[] {
  const all = entriesOf(entries, resolver);
  // Names of a file are checked with it; those of an object are known only here.
  if (all !== entries && !resolver.forRecord) all.forEach(refuseHeaderName);
  return all.flatMap((entry): readonly Header[] => {
    const filled = fillValue(entry.value, resolver);
    if (filled === 'left-out') return [];
    if (filled.value === null) return [[entry.name, LEFT_OUT]];
    const text = headerText(filled.value, resolver.forRecord);
    return [[entry.name, typeof text === 'string' ? text : faultAt(entry, text)]];
  });
}

function refuseHeaderName(entry: NamedEntry<ValueTemplate>): void {
  const problem = headerNameProblem(entry.name);
  if (problem) faultAt(entry, { code: 'reserved-header', ...problem });
}

function faultAt(entry: NamedEntry<ValueTemplate>, problem: Omit<Problem, 'range'>): never {
  const source: Source = { file: entry.file, text: entry.name, locate: (range: Range) => range };
  return fillFault(entry.value.kind === 'text' ? entry.value.source : source, {
    ...problem,
    range: entry.value.kind === 'text' ? [0, entry.value.source.text.length] : entry.nameRange,
  });
}

/** A null header takes away the same header of the api, or one of our defaults. */
const LEFT_OUT = '\0';

/** Later headers replace earlier ones of the same name, in their place. */
function mergeHeaders(headers: readonly Header[]): readonly Header[] {
  const merged: Header[] = [];
  for (const header of headers) {
    const at = merged.findIndex(([name]) => isSameName(name, header[0]));
    if (at < 0) merged.push(header);
    else merged[at] = header;
  }
  return merged.some(([, value]) => value === LEFT_OUT) ? merged.filter(([, value]) => value !== LEFT_OUT) : merged;
}

function withQuery(url: string, pairs: readonly string[]): string {
  if (pairs.length === 0) return url;
  const hash = url.indexOf('#');
  const [head, tail] = hash < 0 ? [url, ''] : [url.slice(0, hash), url.slice(hash)];
  const joint = !head.includes('?') ? '?' : head.endsWith('?') || head.endsWith('&') ? '' : '&';
  return `${head}${joint}${pairs.join('&')}${tail}`;
}
