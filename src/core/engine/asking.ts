import type { ExpectRecord } from '../journal/records.ts';
import type { HttpRequest } from '../http/message.ts';

/** Asks about a file that a response does not equal, and writes it when the answer is yes. */
export type Accept = (
  question: Readonly<{ file: string; content: string | Uint8Array; record: ExpectRecord }>,
) => Promise<boolean>;

/** What a person answers about a request that changes something; `all` asks no more about this call. */
export type ChangeAnswer = 'send' | 'skip' | 'all' | 'stop';

/** Shows a request that would change something, as its record would show it, and asks. It holds no slot meanwhile. */
export type AskChange = (call: string, shown: HttpRequest) => Promise<ChangeAnswer>;

/** Thrown when a person ends a question instead of answering it: the run ends as by an interruption at any other time. */
export class Interrupted extends Error {}
