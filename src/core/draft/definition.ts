import type { DraftRequest } from './request.ts';

/** What a sample says, with what of it has no counterpart here; or why it cannot be read. */
export type ReadSample =
  Readonly<{ request: DraftRequest; notes: readonly string[] }> | Readonly<{ message: string; advice?: string }>;

/** A form in which documentation or a capture shows requests: one file, one entry in the list. */
export type DraftForm = Readonly<{
  /** As `--from` names it. */
  name: string;
  /** What a sample of it is called in messages. */
  what: string;
  recognizes(text: string): boolean;
  /** Never throws. */
  read(text: string): ReadSample;
}>;
