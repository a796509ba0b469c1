import type { Code } from '../diagnostics/catalogue.ts';
import type { Value } from '../value/value.ts';
import type { Problem } from '../diagnostics/problem.ts';
import type { Node } from './model.ts';
import type { XmlDocument } from '../value/xml.ts';

/** Where a volatile function takes its value from: bytes of the run's seed, and the run's clock. */
export type Draw = Readonly<{
  bytes(count: number): Uint8Array;
  /** Milliseconds since 1970. */
  nowMs: number;
}>;

/** What is around the response that an expression reads. */
export type ResponseHost = Readonly<{
  /** The URL after redirects, against which references resolve. */
  url: string;
  /** Values of the `Link` header (RFC 8288). */
  links: string | undefined;
  /** The body, when it is XML. */
  document: XmlDocument | undefined;
  /** Prefixes of XPath expressions, and the namespaces that they stand for. */
  namespaces: Readonly<Record<string, string>>;
}>;

/** Why a file cannot be read or written; without a code it is not there. */
export type FileRefused = Readonly<{ message: string; advice?: string; code?: Code }>;

export type FileRead = Readonly<{ bytes: Uint8Array }> | FileRefused;

/** What functions may ask of what is around an expression: never the disk, the clock or chance themselves. */
export type Host = Readonly<{
  /** The project's time zone, an IANA name. */
  zone: string;
  /** Draws a value, and records it under the function's name. */
  drawn<T extends Value>(name: string, make: (draw: Draw) => T): T;
  /** The same without a record, from the system's own randomness: for what `secret(...)` holds. */
  unrecorded: Host;
  response: ResponseHost | undefined;
  /** Takes down what an evaluation of an expression met. */
  noted?(tree: Node, notes: readonly Problem[]): void;
  /** Reads a file that an expression names, relative to the chain file. */
  readFile(path: string): FileRead;
}>;

/** The host of expressions that may ask for nothing: constants, tests of patterns. */
export const noHost: Host = Object.freeze({
  zone: 'UTC',
  drawn: () => {
    throw new Error('Random values are not available here');
  },
  get unrecorded(): Host {
    return noHost;
  },
  response: undefined,
  readFile: () => ({ message: 'Files are not available here' }),
});
