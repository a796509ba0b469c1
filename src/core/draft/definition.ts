import type { DraftRequest } from './request.ts';

/** A request of a sample, and what was answered where a capture holds it. */
export type Sample = Readonly<{
  request: DraftRequest;
  response?: SampleResponse | undefined;
}>;

export type SampleResponse = Readonly<{
  status: number;
  /** Cookies that it set, by name. */
  cookies: ReadonlyMap<string, string>;
  /** The body of a JSON response, as text. */
  json: string | undefined;
}>;

/** What a text says, with what of it has no counterpart here; or why it cannot be read. */
export type ReadSamples =
  Readonly<{ samples: readonly Sample[]; notes: readonly string[] }> | Readonly<{ message: string; advice?: string }>;

/** How a text is read. */
export type ReadOptions = Readonly<{
  /** A word that a request of a capture must have in its URL. */
  matching?: string | undefined;
  /** Whether what browsers add by themselves is kept. */
  browserHeaders?: boolean | undefined;
  /** Whether a host is known to be spoken to without TLS. */
  isPlain?(host: string): boolean;
}>;

/** A form in which documentation or a capture shows requests: one file, one entry in the list. */
export type DraftForm = Readonly<{
  /** As `--from` names it. */
  name: string;
  /** What a sample of it is called in messages. */
  what: string;
  recognizes(text: string): boolean;
  /** Never throws. */
  read(text: string, options: ReadOptions): ReadSamples;
}>;
