import type * as OAuth from 'oauth4webapi';
import type { AuthHost, AuthProblem } from '../definition.ts';
import type { OAuth2 } from '../oauth2.ts';

/** What a grant has at hand: the package, the server, the client, and how both talk. */
export type GrantContext = Readonly<{
  oauth: typeof OAuth;
  server: OAuth.AuthorizationServer;
  client: OAuth.Client;
  clientAuth: OAuth.ClientAuth;
  options: OAuth.TokenEndpointRequestOptions;
  definition: OAuth2;
  host: AuthHost;
  /** The text of one of the definition's keys. */
  text(key: TextKey): string;
  /** Scope and further parameters. */
  parameters: Readonly<Record<string, string>>;
}>;

export type TextKey = Exclude<keyof OAuth2, 'grant' | 'client-auth' | 'redirect-port' | 'parameters'>;

export type GrantOutcome = Readonly<{ response: Response }> | Readonly<{ problem: AuthProblem }>;

/** How one grant gets tokens: one file, one entry in the list. */
export type GrantKind = Readonly<{
  /** Keys that must be there. */
  needs: readonly TextKey[];
  /** Whether a person takes part, so that a terminal is needed. */
  needsPerson: boolean;
  request(context: GrantContext): Promise<GrantOutcome>;
}>;
