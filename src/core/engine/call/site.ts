import type { CallStep } from '../../chain/model.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import type { StepFrame } from '../frame.ts';
import type { Replayed } from '../recorded.ts';

/** A call at the place where it is made: all that sending, judging and recording it goes by. */
export type CallSite = Readonly<{
  step: CallStep;
  endpoint: Endpoint | undefined;
  context: StepFrame;
  /** The recorded call that stands for sending it. */
  replayed: Replayed | undefined;
  /** The fingerprint of what is sent, once its first request is built. */
  sent: { fingerprint: string | undefined };
}>;

/** Who a request goes to, as secrets belong to: an api of the project, or the origin of a server that is none. */
export function serverOf(url: string, isOwn: boolean, endpoint: Endpoint | undefined): string {
  return (isOwn && endpoint?.api) || (URL.canParse(url) ? new URL(url).origin : url);
}

/** The place of a call whose step runs in a frame. */
export function callSite(step: CallStep, context: StepFrame): CallSite {
  const endpoint = context.endpointOf(context.chain, step);
  return { step, endpoint, context, replayed: undefined, sent: { fingerprint: undefined } };
}
