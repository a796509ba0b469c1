import type { Source } from '../diagnostics/source.ts';
import type { Named } from '../schema/leaves.ts';
import type { RequestLine } from '../template/request-line.ts';
import type { TextTemplate, ValueTemplate } from '../template/template.ts';
import type { Value } from '../value/value.ts';
import type { Auth } from './auth/definition.ts';
import type { Body } from './bodies/definition.ts';
import type { Timeouts } from './message.ts';

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
  /** Whether what changes something must be allowed by name, or is never sent. */
  changes: 'when-told' | 'never' | undefined;
  /** Whether redirects are followed, or are the response. */
  redirects: 'follow' | 'stop' | undefined;
  settings: Readonly<Record<string, Value>>;
  /** Where each setting stands. */
  settingSources: readonly Readonly<{ name: string; source: Source }>[];
}>;

/** What a call says of its request. */
export type RequestTemplate = Readonly<{
  line: RequestLine | undefined;
  query: Named<ValueTemplate>;
  headers: Named<ValueTemplate>;
  body: Body | undefined;
  /** `none`: no credentials for this call. */
  auth: Auth | 'none' | undefined;
}>;
