import type { Header } from '../http/message.ts';
import type { Maybe } from '../value/value.ts';

/** The last response that a call was answered with in a run. */
export type LastResponse = Readonly<{
  method: string;
  url: string;
  status: number;
  tookMs: number | undefined;
  headers: readonly Header[];
  /** The decoded body; nothing where it is not recorded, or is neither JSON nor text. */
  body: Maybe;
}>;

/** What the last run of a chain recorded. Secrets are masked in it already. */
export type LastRun = Readonly<{
  id: string;
  /** The day and time of its beginning, as people read it. */
  when: string;
  response(call: string): LastResponse | undefined;
  /** What a name was bound to last; nothing where it was not bound, or is masked. */
  value(name: string): Maybe;
  /** The same in a few words, of masked values the mask. */
  shown(name: string): string | undefined;
}>;
