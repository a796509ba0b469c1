import type { Decoded } from '../http/decode.ts';
import { HeaderFields } from '../http/headers.ts';
import type { HttpResponse } from '../http/message.ts';
import { Bytes, Duration, type Maybe, type Value } from '../value/value.ts';

/** What the response keys of a call see: `$`, and by name everything beside it. */
export type ResponseView = Readonly<{ body: Maybe; names: Readonly<Record<string, Value>> }>;

export function viewOf(response: HttpResponse, decoded: Decoded, url: string, tookMs: number): ResponseView {
  const names = {
    status: response.status,
    headers: new HeaderFields(response.headers),
    cookies: cookiesOf(response),
    url,
    took: new Duration(Math.round(tookMs * 1000) / 1000),
    size: response.body.length,
    raw: new Bytes(response.body),
    tries: 1,
  };
  return { body: decoded.problem ? undefined : decoded.value, names };
}

/** The cookies that a response sets, by name (RFC 6265 section 5.2). */
function cookiesOf(response: HttpResponse): Value {
  const cookies: [string, string][] = [];
  for (const [name, value] of response.headers) {
    if (name.toLowerCase() !== 'set-cookie') continue;
    const pair = /^\s*([^=;]+?)\s*=\s*"?([^;"]*)"?/.exec(value);
    if (pair) cookies.push([pair[1]!, pair[2]!]);
  }
  return Object.fromEntries(cookies);
}
