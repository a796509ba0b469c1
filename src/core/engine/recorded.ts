import type { BodyRef } from '../journal/records.ts';
import type { CallRecords, RecordedCall } from '../journal/call-records.ts';
import type { SettledBody } from '../journal/events.ts';
import type { Decoded } from '../http/decode.ts';

/** A recorded call that stands for sending it: done before in this run, kept of another, or fresh enough. */
export type Replayed = Readonly<{
  outcome: 'reused' | 'fresh';
  call: RecordedCall;
  body(ref: BodyRef): Uint8Array | undefined;
  /** Whether its exchanges are those of this very journal. */
  isSameRun: boolean;
  isOwn: boolean;
  /** What the body was read as, where it is not in the record but went elsewhere. */
  decoded?: Decoded;
  /** Where the request of today is another one than was recorded. */
  differences?: readonly string[];
}>;

/** What a run goes on from. */
export type Recorded = Readonly<{
  /**
   * `go-on`: what was done and has not changed is not done again. `only`: everything but one call is taken as recorded.
   * `rehearse`: nothing is sent at all, and requests are compared with what was recorded.
   */
  mode: 'go-on' | 'only' | 'rehearse';
  records: CallRecords;
  isSameRun: boolean;
  /** Whether it ran with the files of today each time. */
  isUnchanged?: boolean;
  /** Whether items that failed are tried again. */
  failed: boolean;
  /** How it ended, of a run that did: its cleanup has run. */
  ended?: 'passed' | 'failed' | undefined;
  /** What a person said of all requests that have changed since they were sent. */
  changed?: 'resend' | 'skip' | undefined;
  /** What a person said of all that a damaged record may have lost. */
  lost?: 'sent' | 'not-sent' | undefined;
  /** What was just said of single requests, to be recorded. */
  settled?: readonly SettledBody[];
}>;

/** Older responses of the project, by what was sent. */
export type FreshRecords = (
  requestFingerprint: string,
  maxAgeMs: number,
) => Pick<Replayed, 'call' | 'body'> | undefined;
