import type { Code } from '../../diagnostics/catalogue.ts';

/** What a scripted server answers in an example. */
export type Answer = Readonly<{
  status?: number;
  type?: string;
  body?: string;
  headers?: readonly (readonly [string, string])[];
}>;

/** An example that brings a code about. Each is run as a test. */
export type CodeExample =
  /** Steps of a chain that is only checked. */
  | Readonly<{ steps: string }>
  /** A whole chain file that is only checked. */
  | Readonly<{ chain: string }>
  /** A project file. */
  | Readonly<{ project: string }>
  /** Steps that run, and what the server answers; without an answer there is no server. */
  | Readonly<{ run: string; answer?: Answer }>
  /** A command line in the demo's project. */
  | Readonly<{ command: string }>;

/** The page of a message code: what it means, why it matters, what to do. */
export type CodePage = Readonly<{ about: string; example: CodeExample }>;

export type CodePages = Partial<Readonly<Record<Code, CodePage>>>;
