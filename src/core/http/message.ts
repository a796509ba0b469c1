import type { FileRefused } from '../expression/host.ts';

/** A request as it goes over the wire, or as a record shows it: the URL byte for byte, headers in order. */
export type HttpRequest = Readonly<{
  method: string;
  url: string;
  headers: readonly Header[];
  body?: RequestBody;
}>;

/** A body that is held, or one that is read while it is sent. */
export type RequestBody = string | Uint8Array | StreamedBody;

/** A body too large to hold: it can be read several times, and is the same each time unless its file was changed. */
type StreamedBody = Readonly<{
  size: number;
  /** Read while it is sent. */
  chunks(): AsyncIterable<Uint8Array>;
  /** Read at once, for what must know all of it before it is sent. */
  pieces(): Iterable<Uint8Array>;
}>;

/** A file that a request sends. */
export type RequestFile = StreamedBody & Readonly<{ name: string }>;

/** A file that was opened, or why it cannot be. */
export type OpenedFile = RequestFile | FileRefused;

export type Header = readonly [name: string, value: string];

/** How long one exchange may take, phase by phase, in milliseconds. */
export type Timeouts = Readonly<{
  connect: number;
  response: number;
  idle: number;
  whole?: number;
  /** Those that a file says; the others are defaults. */
  said?: readonly Limit[];
}>;

/** A part of an exchange that has a limit of time. */
export type Limit = 'connect' | 'response' | 'idle' | 'whole';

export const DEFAULT_TIMEOUTS: Timeouts = { connect: 10_000, response: 60_000, idle: 60_000 };

/** How an origin is connected to. Contents of files, not their names. */
export type ConnectionOptions = Readonly<{
  /** Certificates of authorities, in PEM, in place of those that the system trusts. */
  ca?: string;
  /** The client's own certificate and key, in PEM. */
  cert?: string;
  key?: string;
  verify?: false;
  /** A proxy's URL; `none` for a direct connection whatever the environment says. */
  proxy?: string;
  /** Where to connect in place of the host and port of the URL. */
  to?: Readonly<{ host: string; port: number | undefined }> | Readonly<{ socket: string }>;
  http2?: true;
}>;

/** A connection as the system makes it; one object, so that all who want it share their connections. */
export const PLAIN_CONNECTION: ConnectionOptions = Object.freeze({});

/** Where the time of an exchange went, in milliseconds. */
export type Timings = Readonly<{
  blocked: number;
  dns: number;
  connect: number;
  tls: number;
  send: number;
  wait: number;
  receive: number;
}>;

/** What a sink says of a piece: more may come, it has enough, or the body is too big. */
export type SinkState = 'more' | 'enough' | 'too-big';

/** Takes a body piece by piece as it arrives, instead of its being held. */
export interface BodySink {
  /** `enough` ends the exchange: what came so far is all of the body. `too-big` ends it as a failure. */
  write(chunk: Uint8Array): SinkState | Promise<SinkState>;
  /** Bytes that it takes at most. */
  readonly maxBytes?: number;
  /** Milliseconds after which what came is all of the body, however quiet the server is until then. */
  readonly endsAfterMs?: number | undefined;
}

/** Status and headers, before the body comes. */
export type ResponseHead = Readonly<{ status: number; reason: string; headers: readonly Header[] }>;

/** A response as it came, its content codings undone. */
export type HttpResponse = Readonly<{
  status: number;
  reason: string;
  http: string;
  headers: readonly Header[];
  body: Uint8Array;
  /** Bytes of the body before decompression. */
  encodedSize: number;
  remote?: string;
  reused: boolean;
  timings: Timings;
}>;

export type Phase = 'lookup' | 'connect' | 'tls' | 'send' | 'response' | 'body';

/** An exchange that gave no usable response. `reached` says whether the server may have acted on the request. */
export type Broken = Readonly<{
  code: 'no-connection' | 'timed-out' | 'body-too-big' | 'not-decodable' | 'not-writable' | 'over-limit';
  cause: string;
  phase: Phase;
  reached: 'no' | 'maybe';
  message: string;
  /** The limit of time that was reached. */
  limit?: Limit;
}>;

export type ExchangeResult =
  Readonly<{ response: HttpResponse; broken?: undefined }> | Readonly<{ response?: undefined; broken: Broken }>;

/** Whether two names of headers are the same, in any case (RFC 9110 section 5.1). */
export function isSameName(left: string, right: string): boolean {
  return left === right || (left.length === right.length && left.toLowerCase() === right.toLowerCase());
}

/** The value of a header, several joined by `, `; its name in any case. */
export function headerOf(headers: readonly Header[], name: string): string | undefined {
  let joined: string | undefined;
  for (const [each, value] of headers) {
    if (isSameName(each, name)) joined = joined === undefined ? value : `${joined}, ${value}`;
  }
  return joined;
}

/** `https://host:port` of an absolute URL as it stands, and what follows it; the path is at least `/`. */
export function splitUrl(url: string): Readonly<{ origin: string; path: string }> {
  const origin = /^https?:\/\/[^/?#]*/i.exec(url)![0];
  const hash = url.indexOf('#', origin.length);
  const rest = hash < 0 ? url.slice(origin.length) : url.slice(origin.length, hash);
  return { origin, path: rest.startsWith('/') ? rest : `/${rest}` };
}

/** The origin by which two URLs are compared: scheme and host in lower case, the port always said (RFC 6454). */
export function originKey(url: string): string {
  const key = knownOrigin(splitUrl(url).origin);
  if (key === '') throw new TypeError(`Not a URL: ${url}`);
  return key;
}

/** The key of an origin, empty where it is none. Every request asks for those of two URLs, the same few all along. */
function knownOrigin(origin: string): string {
  let key = originKeys.get(origin);
  if (key === undefined) {
    if (originKeys.size >= MAX_REMEMBERED) originKeys.clear();
    originKeys.set(origin, (key = URL.canParse(origin) ? keyOf(new URL(origin)) : ''));
  }
  return key;
}

function keyOf({ protocol, hostname, port }: URL): string {
  return `${protocol}//${hostname}:${port || (protocol === 'https:' ? '443' : '80')}`;
}

const originKeys = new Map<string, string>();
const MAX_REMEMBERED = 100;

/** Whether a text is a whole URL to which a request can be sent: whatever follows its origin is a path, a query, a fragment. */
export function isHttpUrl(text: string): boolean {
  return /^https?:\/\//i.test(text) && knownOrigin(splitUrl(text).origin) !== '';
}

/** Whether a URL leads to this machine, whatever stands around its host: user information or a name that goes on do not. */
export function isLoopbackUrl(url: string): boolean {
  return /^https?:\/\/(?:127\.\d+\.\d+\.\d+|localhost|\[::1\])(?::\d+)?(?:[/?#]|$)/.test(url);
}
