import type { Code } from '../diagnostics/catalogue.ts';
import { headerOf, originKey, type HttpRequest, type HttpResponse } from './message.ts';

/** Where a redirect leads, or why it is not followed. */
export type RefusedRedirect = Readonly<{
  code: Extract<Code, 'redirect-refused' | 'redirect-loop'>;
  message: string;
  advice: string;
}>;

export type Redirect = Readonly<{ url: string; method: string; keepsBody: boolean }> | RefusedRedirect;

const MAX_HOPS = 10;

/**
 * What a response says of where to go on (RFC 9110 section 15.4): 301 and 302 turn POST into GET, 303 everything but
 * HEAD, 307 and 308 keep method and body. `undefined` when it is no redirect. `visited` are the requests so far.
 */
export function redirectOf(
  request: HttpRequest,
  response: HttpResponse,
  visited: readonly HttpRequest[],
): Redirect | undefined {
  const { status } = response;
  const location = headerOf(response.headers, 'location');
  if (![301, 302, 303, 307, 308].includes(status) || location === undefined) return undefined;
  const stop = 'Write redirects: stop to get the 3xx itself as the response.';
  const refused = (message: string): Redirect => ({ code: 'redirect-refused', message, advice: stop });
  if (!URL.canParse(location, request.url)) return refused(`The redirect leads to "${location}", which is not a URL`);
  const url = withoutFragment(new URL(location, request.url));
  if (!/^https?:$/.test(url.protocol)) return refused(`The redirect leads to ${url.protocol}, which is not followed`);
  const becomesGet = status === 303 ? request.method !== 'HEAD' : status <= 302 && request.method === 'POST';
  const method = becomesGet ? 'GET' : request.method;
  const unsafe = whyUnsafe(request.url, url, method);
  if (unsafe !== undefined) return refused(unsafe);
  if (visited.some((each) => each.url === url.href && each.method === method)) {
    return { code: 'redirect-loop', message: `The redirects come back to ${url.href}`, advice: stop };
  }
  if (visited.length > MAX_HOPS) return refused(`There were more than ${MAX_HOPS} redirects`);
  return { url: url.href, method, keepsBody: !becomesGet };
}

/** What a redirect must not do: lead away from TLS, or take a change to another origin. */
function whyUnsafe(from: string, to: URL, method: string): string | undefined {
  if (from.startsWith('https:') && to.protocol === 'http:')
    return `The redirect leads from https to plain http, to ${to.origin}`;
  if (originKey(to.href) === originKey(from) || method === 'GET' || method === 'HEAD') return undefined;
  return `The redirect would send this ${method} to another origin, ${to.origin}`;
}

function withoutFragment(url: URL): URL {
  url.hash = '';
  return url;
}
