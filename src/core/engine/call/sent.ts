import type { ProblemRecord } from '../../journal/records.ts';
import type { PageRequest } from '../../http/build-request.ts';
import type { Broken, HttpRequest, HttpResponse } from '../../http/message.ts';
import type { RefusedRedirect } from '../../http/redirect.ts';
import type { Decision } from '../../pacing/retry.ts';
import type { Resolvers } from '../resolvers.ts';

/** What came of a request: a response, none, or a reason not to send it. `numbers` are its exchanges in the record. */
export type Sent = Readonly<{
  numbers: readonly number[];
  tries?: number;
  /** Why each try but the last was followed by another. */
  tried?: readonly string[];
  notAgain?: Decision | undefined;
  tookMs?: number;
}> &
  (
    | Readonly<{ x: number; request: HttpRequest; response: HttpResponse; refused?: RefusedRedirect; isOwn: boolean }>
    | Readonly<{ x: number; broken: Broken }>
    | Readonly<{ problem: ProblemRecord; exit: number }>
    /** A person said no, for this call or for the run; or the run pauses before it is sent. */
    | Readonly<{ declined: 'skip' | 'stop' | 'pause' }>
  );

/** A request that got a response. */
export type Answered = Extract<Sent, { response: HttpResponse }>;

/** Where the responses of one call come from. */
export interface Requests {
  readonly resolvers: Resolvers;
  send(round?: Round): Promise<Sent>;
}

/** Which request of a call it is, where there are several: a page or a look, counted from 1. */
export type Round = Readonly<{ page?: number; attempt?: number; next?: PageRequest }>;
