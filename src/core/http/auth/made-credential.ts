import type { Json } from '../../value/value.ts';

/** What is noted of a credential: never the credential itself. */
export type MadeCredential = Readonly<{
  scheme: string;
  /** When it ends, in milliseconds since 1970. */
  expires?: number;
  /** Whether there was one before. */
  refreshed: boolean;
  /** Scopes that were asked for and given. */
  asked?: string;
  given?: string;
  /** What a token says of itself when it is a JWT (RFC 7519): the claims that are safe to show, and the names of others. */
  claims?: { [name: string]: Json };
  otherClaims?: string[];
}>;
