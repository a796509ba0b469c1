import { resolversFor } from '../resolvers.ts';
import { Replayer } from './replay.ts';
import { Sender } from './send.ts';
import type { Requests } from './sent.ts';
import type { CallSink } from './sink.ts';
import type { CallSite } from './site.ts';

/** Where the responses of a call come from: the network, or the record that stands for it. */
export function requestsOf(site: CallSite, sink?: CallSink): Requests {
  const { replayed, context, endpoint } = site;
  return replayed ? new Replayer(replayed, resolversFor(context, endpoint)) : new Sender(site, sink);
}
