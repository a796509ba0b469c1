/** Where tokens that outlive a run are kept: refresh tokens that a server rotates, or that a person signed in for. */
export interface TokenStore {
  /** Runs something alone, across processes too, so that two never spend one refresh token. */
  withLock<T>(name: string, work: (tokens: KeptTokens) => Promise<T>): Promise<T>;
}

interface KeptTokens {
  read(): string | undefined;
  write(refreshToken: string | undefined): void;
}

/** A person who signs in: with a browser, or a code on another device. */
export interface SignInHelp {
  /** Whether there is a terminal, and it may be asked. */
  readonly isPresent: boolean;
  /** Waits on a loopback address for the browser to come back (RFC 8252 section 7.3). Port 0 takes a free one. */
  listen(port: number, state: string): Promise<LoopbackListener>;
  /** Opens an address in the browser, and shows it. */
  open(address: string, why: string): void;
  /** Shows a code and where to type it in. */
  showCode(address: string, code: string): void;
}

export interface LoopbackListener {
  /** `http://127.0.0.1:PORT/` */
  readonly address: string;
  /** The URL with which the browser came back, or nothing when nobody came in time. */
  arrived(withinMs: number, signal: AbortSignal): Promise<string | undefined>;
  close(): void;
}
