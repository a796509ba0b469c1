import { RESPONSE_NAMES } from '../chain/names.ts';
import type { Decoded } from '../http/decode.ts';
import type { ResponseHost } from '../expression/host.ts';
import { XmlNode, type XmlDocument } from '../value/xml.ts';
import { HeaderFields } from '../http/headers.ts';
import { headerOf, type HttpResponse } from '../http/message.ts';
import { Bytes, Duration, type Maybe, type ObjectValue, type Value } from '../value/value.ts';

/** What is known of a response beside itself: the URL that gave it, and how long it took in milliseconds. */
export type ResponseAround = Readonly<{
  url: string;
  tookMs: number;
  /** Requests of a call, and looks of one that polls, so far. */
  tries?: number;
  polls?: number;
  pages?: PagesAround;
}>;

/** Of a paged call: how many pages were read so far, the list over all of them, and their size together. */
type PagesAround = Readonly<{ count: number; items: readonly Value[] | undefined; size: number; tries: number }>;

/** What the response keys of a call see: `$`, and by name everything beside it. */
export class ResponseView {
  readonly body: Maybe;
  /** What functions of the response read. */
  readonly host: ResponseHost;

  constructor(
    private readonly response: HttpResponse,
    decoded: Decoded,
    private readonly around: ResponseAround,
    namespaces: Readonly<Record<string, string>> = {},
  ) {
    this.body = decoded.problem ? undefined : decoded.value;
    this.host = {
      url: around.url,
      links: headerOf(response.headers, 'link'),
      document: this.body instanceof XmlNode ? (this.body.node as XmlDocument) : undefined,
      namespaces,
    };
  }

  /**
   * The value of a response name; nothing for one that calls of this sort do not have. Made when it is read: most
   * expectations read one or none of them.
   */
  name(name: string): Maybe {
    const { response } = this;
    switch (name) {
      case 'status':
        return response.status;
      case 'headers':
        return new HeaderFields(response.headers);
      case 'cookies':
        return cookiesOf(response);
      case 'url':
        return this.around.url;
      case 'took':
        return new Duration(Math.round(this.around.tookMs * 1000) / 1000);
      case 'size':
        return this.around.pages?.size ?? response.body.length;
      case 'page_count':
        return this.around.pages?.count;
      case 'items':
        return this.around.pages?.items;
      case 'raw':
        return new Bytes(response.body);
      case 'tries':
        return this.around.pages?.tries ?? this.around.tries ?? 1;
      case 'polls':
        return this.around.polls;
      default:
        return undefined;
    }
  }

  /** All of them, for `response.NAME`. */
  all(): ObjectValue {
    const all = [...RESPONSE_NAMES.keys()].map((name): [string, Maybe] => [name, this.name(name)]);
    return Object.fromEntries(all.filter((entry): entry is [string, Value] => entry[1] !== undefined));
  }
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
