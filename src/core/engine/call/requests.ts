import type { CallStep } from '../../chain/model.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import type { EventBody } from '../../journal/events.ts';
import type { ExchangeOptions } from '../../ports.ts';
import type { RunContext } from '../context.ts';
import { resolversFor } from '../resolvers.ts';
import { Replayer } from './replay.ts';
import { Sender, type Requests } from './send.ts';

/** Where the responses of a call come from: the network, or the record that stands for it. */
export function requestsOf(
  step: CallStep,
  address: string,
  endpoint: Endpoint | undefined,
  context: RunContext,
  sinkFor?: ExchangeOptions['sinkFor'],
): Requests {
  if (context.replayed) return new Replayer(context.replayed, resolversFor(context, endpoint));
  return new Sender(step, address, endpoint, context, sinkFor);
}

/** What is to be recorded of a call: answers that stand in a record already are not told twice. */
export function newEvents({ replayed }: RunContext, events: readonly EventBody[]): readonly EventBody[] {
  return replayed ? events.filter(({ type }) => type !== 'answered') : events;
}
