import type { MadeCredential } from '../http/auth/made-credential.ts';
import type { DecodedAs } from '../http/decode.ts';
import type { Header, Phase, Timings } from '../http/message.ts';

import type { Json } from '../value/value.ts';
import type {
  Stored,
  BodyRef,
  PlaceRef,
  Read,
  RecordedRequest,
  PlaceholderRecord,
  OperationRef,
  ExpectRecord,
  Bind,
  ProblemRecord,
  ItemRecord,
  FailureGroup,
  WaitReason,
  PauseReason,
  Totals,
} from './records.ts';

export type { Json };

/** One thing that happened, as a fact in the past. Readers ignore fields and types that they do not know. */
export type EventBody =
  | {
      type: 'run';
      v: 2;
      run: string;
      tool: string;
      chain: string;
      name: string;
      files: { path: string; sha256: string }[];
      inputs: Record<string, Stored>;
      /** What was remembered when it began. */
      remembered: Record<string, Stored>;
      apis: { name: string; deployment: string | null; url: string }[];
      seed: string;
      /** Where `--now` set the clock, as RFC 3339. */
      now: string | null;
      zone: string;
      options: Json;
    }
  | {
      type: 'sent';
      x: number;
      step: string;
      key: string;
      purpose: 'call' | 'undo' | 'token' | 'sign-in' | 'choices';
      page?: number;
      attempt?: number;
      tryNumber: number;
      hop: number;
      api: string;
      /** The operation of the API's description that it belongs to. */
      operation?: OperationRef;
      request: RecordedRequest;
      placeholders?: PlaceholderRecord[];
      idempotencyKey?: string;
      repeatable: boolean;
      changing: boolean;
      /** The fingerprint of what is sent for its call. */
      requestFingerprint?: string;
      flushed: boolean;
    }
  | {
      type: 'answered';
      x: number;
      status: number;
      reason: string;
      http: string;
      headers: readonly Header[];
      body?: BodyRef;
      decoded: DecodedAs;
      encodedSize: number;
      remote?: string;
      reused: boolean;
      /** What the response set of cookies, by name. */
      setCookies?: string[];
      timings: Timings;
    }
  | { type: 'broken'; x: number; cause: string; phase: Phase; reached: 'no' | 'maybe'; message: string }
  | {
      type: 'ended';
      step: string;
      key: string;
      kind: string;
      name?: string;
      outcome: 'passed' | 'failed' | 'skipped' | 'reused' | 'fresh' | 'cut';
      /** The run whose responses stood for sending it, and its exchanges there. */
      from?: { run: string; x: number[] };
      /** Fingerprints of what was sent, and of what it is judged by. */
      requestFingerprint?: string;
      /** Of the request as its files say it, before any value is known. */
      requestText?: string;
      assertionFingerprint?: string;
      /** The item of a loop that it failed for. */
      item?: ItemRecord;
      /** Of a loop: its items. */
      counts?: { done: number; failed: number; skipped: number };
      /** Of a loop with many failures: alike ones together, the largest group first. */
      groups?: FailureGroup[];
      /** Why it was skipped. */
      why?: string;
      x?: number[];
      ms: number;
      /** Milliseconds of it that were waited. */
      waitedMs?: number;
      /** Requests of the try that needed most, where it was more than one. */
      tries?: number;
      /** Of a call that failed after several tries: how each of the last request's ended. */
      tried?: string[];
      expects?: ExpectRecord[];
      binds?: Bind[];
      /** What volatile functions gave in it, in order. */
      drew?: [string, Json][];
      problem?: ProblemRecord;
      /** Further problems of the same step, such as a second `keep` that found nothing. */
      problems?: ProblemRecord[];
    }
  | {
      type: 'opened';
      step: string;
      key: string;
      kind: string;
      branch?: 'steps' | 'otherwise';
      text?: string;
      /** Of a loop: how many items, and how many steps each. */
      total?: number;
      /** How many of them run, where not all do. */
      selected?: number;
      steps?: number;
      reads?: Read[];
      item?: ItemRecord;
      round?: number;
    }
  | {
      type: 'attempted';
      step: string;
      attempt: number;
      seen: Record<string, Stored>;
      progress?: number;
      done: 'no' | 'until' | 'give-up-when' | 'deadline';
    }
  /** A further try was decided: after what, and after how many milliseconds. */
  | { type: 'again'; x: number; why: string; after: number }
  /** Waits of 50 ms and more. */
  | { type: 'waited'; step: string; why: WaitReason; ms: number; detail?: string }
  /** What a person said of a request: what became of one in doubt, or what to do about one that has changed since it was sent. */
  | {
      type: 'settled';
      step: string;
      key: string;
      as: Settlement;
      /** The fingerprint of the changed request that the answer is about. */
      requestFingerprint?: string;
      /** What the request would have kept, as far as it was said. */
      kept?: Record<string, Stored>;
    }
  /** So many items of a loop, all of whose calls were done before, are taken as they are recorded. */
  | { type: 'kept'; step: string; items: number }
  /** A run goes on. */
  | { type: 'resumed'; files: { path: string; sha256: string }[]; options: Json }
  /** How to take back what a call made was put down, and was sent. */
  | { type: 'undo'; n: number; step: string; key: string }
  | { type: 'undone'; n: number; step: string; key: string; outcome: 'passed' | 'failed' }
  | ({ type: 'credential'; api: string; deployment: string | null } & MadeCredential)
  | {
      type: 'file';
      step: string;
      path: string;
      op: 'saved' | 'wrote' | 'replaced' | 'appended' | 'updated';
      /** What was there before the first row was put behind it. */
      before?: { size: number };
      after: { size: number; sha256?: string };
      /** Rows that were written. */
      rows?: number;
    }
  | { type: 'listening'; name: string; step: string; url: string; port: number; path: string }
  | {
      type: 'called-back';
      name: string;
      step: string;
      request: RecordedRequest;
      answered: number;
      /** What it was answered beside the status, where there was more. */
      answer?: { headers: Header[]; body?: BodyRef };
    }
  | { type: 'said'; step: string; text: string }
  | { type: 'note'; code: string; level: 'warning' | 'info'; message: string; step?: string; source?: PlaceRef }
  /** The run stopped before its end, and can go on. */
  | {
      type: 'paused';
      why: PauseReason;
      exit: number;
      /** From when on it is worth going on, in milliseconds since 1970. */
      until?: number;
      step?: string;
      detail?: string;
      totals: Totals;
    }
  | {
      type: 'finished';
      outcome: 'passed' | 'failed';
      exit: number;
      outputs: Record<string, Stored>;
      totals: Totals;
    };

/** What was said of a request, before it is numbered. */
export type SettledBody = Extract<EventBody, { type: 'settled' }>;

/** `sent` and `not-sent` of a request in doubt, `resend` and `skip` of one that was done and has changed. */
export type Settlement = 'sent' | 'not-sent' | 'resend' | 'skip';

/** What is under way: shown, and not written down. Without a reason a wait has ended. */
export type TransientBody =
  | { type: 'waiting'; step: string; why?: WaitReason; detail?: string; until?: number }
  /** How long the response to a request is waited for. */
  | { type: 'limited'; x: number; limitMs: number }
  | { type: 'pausing'; why: PauseReason; step?: string; until?: number; detail?: string };

/** `seq` orders; `at` is milliseconds since 1970 by the wall clock. */
export type JournalEvent = { seq: number; at: number } & EventBody;

/** What listeners are told: events of the journal, and what is under way. */
export type ListenerEvent = JournalEvent | ({ seq: number; at: number } & TransientBody);

export type EventOf<T extends EventBody['type']> = Extract<JournalEvent, { type: T }>;
