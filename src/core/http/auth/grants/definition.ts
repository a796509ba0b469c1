import type * as OAuth from 'oauth4webapi';
import type { AuthHost, AuthProblem } from '../definition.ts';
import type { Named } from '../../../schema/leaves.ts';
import type { TextTemplate, ValueTemplate } from '../../../template/template.ts';

export const GRANTS = [
  'client-credentials',
  'authorization-code',
  'device',
  'refresh-token',
  'password',
  'jwt-bearer',
  'token-exchange',
] as const;
export type Grant = (typeof GRANTS)[number];

/** What a file says of an OAuth client; which keys there must be is for the grant to say. */
export type OAuth2 = Readonly<{
  grant: Grant;
  'token-url': TextTemplate;
  'client-id'?: TextTemplate | undefined;
  'client-secret'?: TextTemplate | undefined;
  'client-auth'?: 'basic' | 'post' | 'private-key-jwt' | undefined;
  key?: TextTemplate | undefined;
  'key-id'?: TextTemplate | undefined;
  scope?: TextTemplate | undefined;
  'authorize-url'?: TextTemplate | undefined;
  'redirect-port'?: number | undefined;
  'device-url'?: TextTemplate | undefined;
  'refresh-token'?: TextTemplate | undefined;
  user?: TextTemplate | undefined;
  password?: TextTemplate | undefined;
  assertion?: TextTemplate | undefined;
  claims?: Named<ValueTemplate> | undefined;
  'subject-token'?: TextTemplate | undefined;
  'subject-token-type'?: TextTemplate | undefined;
  'actor-token'?: TextTemplate | undefined;
  'actor-token-type'?: TextTemplate | undefined;
  issuer?: TextTemplate | undefined;
  parameters?: Named<ValueTemplate> | undefined;
}>;

/** What a grant has at hand: the package, the server, the client, and how both talk. */
export type GrantContext = Readonly<{
  oauth: typeof OAuth;
  server: OAuth.AuthorizationServer;
  client: OAuth.Client;
  clientAuth: OAuth.ClientAuth;
  options: OAuth.TokenEndpointRequestOptions;
  definition: OAuth2;
  host: AuthHost;
  /** The text of one of the definition's keys; empty where it is not given. */
  text(key: TextKey): string;
  /** Scope and further parameters. */
  parameters: Readonly<Record<string, string>>;
}>;

export type TextKey = Exclude<keyof OAuth2, 'grant' | 'client-auth' | 'redirect-port' | 'parameters' | 'claims'>;

type GrantOutcome = Readonly<{ response: Response }> | Readonly<{ problem: AuthProblem }>;

/** How one grant gets tokens: one file, one entry in the list. */
export type GrantKind = Readonly<{
  /** Keys that must be there; of a list in it, one of these. */
  needs: readonly (TextKey | readonly (TextKey | 'claims')[])[];
  /** Whether a person takes part, so that a terminal is needed. */
  needsPerson: boolean;
  request(context: GrantContext): Promise<GrantOutcome>;
}>;
