import type { Source } from '../diagnostics/source.ts';
import type { RequestLine } from '../template/request-line.ts';
import type { TextTemplate, ValueTemplate } from '../template/template.ts';
import type { Value } from '../value/value.ts';
import type { Auth } from './auth/definition.ts';
import type { Body } from './bodies/definition.ts';
import type { Expression, Named } from '../schema/leaves.ts';
import type { RateLimit, Resets } from '../pacing/rate-limit.ts';
import type { Retry } from '../pacing/retry.ts';
import type { Timeouts } from './message.ts';
import type { Expectation } from './expectation.ts';

/** When a failed request is sent again; `after` reads from its response how long that asks to wait. */
export type RetryRule = Retry & Readonly<{ after: Expression | undefined }>;

/** The description that an api is held to: its file, and whether what does not fit is an error or a note. */
export type ContractUse = Readonly<{ file: Source; mode: 'fail' | 'warn' }>;

/** One api at one deployment: all that a request to it takes from the project. */
export type Endpoint = Readonly<{
  api: string;
  /** The deployment's name; `undefined` for an api with one url. */
  deployment: string | undefined;
  url: TextTemplate;
  auth: Auth | undefined;
  headers: Named<ValueTemplate>;
  query: Named<ValueTemplate>;
  timeouts: Timeouts;
  /** How fast it may be called, when its quotas begin anew, and how many requests may be in flight. */
  rateLimit: RateLimit;
  resets: Resets;
  concurrency: number;
  /** The same of all processes that share limits. */
  totalConcurrency: number | undefined;
  /** Milliseconds for which a server's `Retry-After` is waited for. */
  maxWaitMs: number;
  retry: RetryRule | undefined;
  /** Whether what changes something must be allowed by name, or is never sent. */
  changes: 'when-allowed' | 'never' | undefined;
  /** Whether redirects are followed, or are the response. */
  redirects: 'follow' | 'stop' | undefined;
  /** How it is connected to: TLS, a proxy, the version of HTTP. */
  connection: ConnectionTemplate;
  /** What must hold of every response that comes from it. */
  expect: readonly Expectation[];
  contract: ContractUse | undefined;
  /** Where an error response says what is wrong. */
  errorMessage: Expression | undefined;
  settings: Readonly<Record<string, Value>>;
  /** Where each setting stands. */
  settingSources: readonly Readonly<{ name: string; source: Source }>[];
}>;

/** An endpoint in words: `harbour at live`, or the api alone where it has no deployments. */
export function endpointWords({ api, deployment }: Pick<Endpoint, 'api' | 'deployment'>): string {
  return deployment === undefined ? api : `${api} at ${deployment}`;
}

const unsigned = new WeakMap<Endpoint, Endpoint>();

/** An endpoint without its credentials: the same one each time, since what is worked out for an endpoint is kept by it. */
export function withoutAuth(endpoint: Endpoint): Endpoint {
  if (!endpoint.auth) return endpoint;
  let plain = unsigned.get(endpoint);
  if (!plain) unsigned.set(endpoint, (plain = { ...endpoint, auth: undefined }));
  return plain;
}

/** Files and a proxy by which an api is connected to; their names are relative to the project file. */
export type ConnectionTemplate = Readonly<{
  ca: TextTemplate | undefined;
  cert: TextTemplate | undefined;
  key: TextTemplate | undefined;
  /** Whether the server's certificate is verified. */
  verify: boolean;
  /** A proxy's URL, or `none`; otherwise the environment says. */
  proxy: TextTemplate | undefined;
  connectTo: TextTemplate | undefined;
  unix: TextTemplate | undefined;
  http2: boolean;
}>;

/** What a call says of its request. */
export type RequestTemplate = Readonly<{
  line: RequestLine | undefined;
  query: Named<ValueTemplate>;
  headers: Named<ValueTemplate>;
  body: Body | undefined;
  /** The header that makes a request one and the same however often it is sent: made for it, or as the file says. */
  idempotencyKey: true | TextTemplate | undefined;
  /** `none`: no credentials for this call. */
  auth: Auth | 'none' | undefined;
}>;
