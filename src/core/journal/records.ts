import type { Header } from '../http/message.ts';

import type { Json, ValueType } from '../value/value.ts';

/** A value as the journal holds it. */
export type Stored =
  /** At most 4 KiB as JSON. */
  | { json: Json }
  /** Derivable: an expression over the response body of an exchange; the type of the value, and how many it holds. */
  | { from: number; expr: string; type: ValueType; length?: number }
  /** What JSON has no word for, or would not give back as it was. */
  | { as: 'big' | 'decimal' | 'date-time' | 'duration' | 'bytes' | 'node' | 'json'; text: string }
  /** Long, and nothing that a response could give again: it stands beside the journal, as JSON. */
  | { body: BodyRef; type: ValueType; length?: number }
  | { secret: string }
  | { nothing: true };

/** A body in the event itself, in a pack beside the journal, in a file of its own, or left out. One in its event has no digest. */
export type BodyRef = { sha256?: string; size: number; type?: string; masked?: true } & (
  | { text: string }
  | { at: [pack: number, offset: number, length: number] }
  | { file: string }
  | { dropped: 'size' | 'saved' | 'streamed' | 'polled' | 'binary-secret' }
);

/** A place in a file; line and column from 1. */
export type PlaceRef = { file: string; line: number; column: number; length: number };

/** A name that an expression read, and the address that bound it. */
export type Read = { name: string; from?: string };

export type RecordedRequest = { method: string; url: string; headers: readonly Header[]; body?: BodyRef };

/** A placeholder of a request: where it stands, what is written in it, and what it read. */
export type PlaceholderRecord = { place: string; text: string; reads: Read[] };

/** A name or path of an expectation with its value, and what it read. */
export type Seen = { text: string; value: Stored; reads?: Read[] };

/** Places of a body that are not as expected: how many, and the first of them. */
export type BodyPlaces = { count: number; first: readonly { path: string; text: string }[] };

/** An operation of a description: `GET /vessels/{id}`, and the file. */
export type OperationRef = { name: string; file: string };

export type ExpectRecord = {
  source?: PlaceRef;
  /** The expression as written, and the reason that stands beside it. */
  text: string;
  because?: string;
  passed: boolean;
  /** Of a paged call: the page that was judged. */
  page?: number;
  of?: 'api' | 'call' | 'contract' | 'default';
  code?: string;
  message?: string;
  advice?: string;
  foundNothing?: true;
  seen?: Seen[];
  /** The items that broke an `all(...)`, the first few of them whole. */
  offenders?: { count: number; of: number; first: { number: number; place: string; seen: Seen[] }[] };
  /** Where the body is not as expected: how many places, and the first of them. */
  places?: BodyPlaces;
  /** The response was accepted as what it should be. */
  accepted?: true;
};

export type Bind = { name: string; value: Stored; text: string; source: PlaceRef; reads: Read[]; masked?: true };

/** A part of a response that explains a failure: what `error-message` found, or an excerpt of the body. */
export type Reply = { part: 'message' | 'body'; text: string };

export type ProblemRecord = {
  code: string;
  message: string;
  advice?: string;
  /** What the server answered, as far as it helps. */
  reply?: Reply;
  source?: PlaceRef;
  line?: string;
  /** What a condition read at the end, and what that was in the looks or rounds before. */
  seen?: (Seen & { before?: string })[];
};

/** An item of a loop: its number from 1, what it is matched by, what it is called. */
export type ItemRecord = { number: number; id: string; label?: string };

/** Failures of one loop that are alike. */
export type FailureGroup = {
  /** The step that failed, and how. */
  step: string;
  status: number | null;
  code: string;
  count: number;
  /** The numbers of the items, in ranges: `4, 9, 12-15`; and of the first, which is shown whole. */
  items: string;
  first: number;
  /** What they have in common that most of those that held have not. */
  common: string[];
};

/** Why something waits. */
export type WaitReason =
  | 'rate-limit'
  | 'quota'
  | 'server'
  | 'retry'
  | 'poll'
  | 'repeat'
  | 'wait'
  | 'receive'
  | 'credential'
  | 'ask'
  | 'shared-limits';

export type PauseReason =
  'interrupt' | 'quota' | 'shared-limits' | 'doubt' | 'changed' | 'within' | 'to' | 'only' | 'watch';

/** What a run came to. Times in milliseconds; of waiting only what nothing was in flight for. */
export type Totals = {
  calls: number;
  /** Calls that failed. */
  failed: number;
  exchanges: number;
  expects: number;
  passed: number;
  /** Calls that passed only after more than one try of the same request. */
  retried: number;
  /** Notes that something passed which may say nothing. */
  notes?: number;
  /** Operations of each description that were asked for, and how many it has. */
  contracts?: { file: string; exercised: number; of: number }[];
  ms: number;
  waited: Partial<Record<WaitReason, number>>;
};
