import type { Authenticator, AuthHost, AuthProblem } from '../../http/auth/definition.ts';
import { maskedByName, shownUrl } from '../../http/shown-request.ts';
import { decodeBody } from '../../http/decode.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import { DEFAULT_TIMEOUTS, originKey, type HttpRequest, type HttpResponse } from '../../http/message.ts';
import type { StepFrame } from '../frame.ts';
import { admit, limitersFor } from './gate.ts';
import { connectionOf } from './connection.ts';
import type { Resolvers } from '../resolvers.ts';
import { answeredEvent, brokenEvent, recordSent, type Purpose } from './record.ts';
import { runSignInChain } from './sign-in-chain.ts';
import { maskedFields } from './token-fields.ts';

/** For whom a credential is made: the endpoint, and the step that needed it first. */
export type Signer = Readonly<{ endpoint: Endpoint | undefined; resolvers: Resolvers; context: StepFrame }>;

/** What a scheme may ask for that signs in by requests of its own. */
export function authHost({ endpoint, resolvers, context }: Signer): AuthHost {
  const { address, key } = context;
  const {
    run: { recorder, clock, signal },
    sessions,
    runHost,
  } = context;
  const { api = '', deployment = null } = endpoint ?? {};
  const purpose: Purpose = { purpose: 'token', address, key, api, repeatable: true, changing: false };
  return {
    resolver: resolvers.real,
    masked: resolvers.masked,
    clock,
    signal,
    randomBytes: (count) => runHost.randomness.bytes(count),
    tokens: sessions.tokens,
    help: sessions.help,
    mark: (name, value) => recorder.mark(name, value),
    made: (credential) => recorder.record({ type: 'credential', api, deployment, ...credential }),
    runChain: (file, inputs) => runSignInChain(file, inputs, context, endpoint),
    send: (request) => sendToken(request, purpose, { endpoint, resolvers, context }),
  };
}

/** The exit status of a run whose sign-in failed. */
export function exitOf({ code }: AuthProblem): number {
  if (code === 'no-connection' || code === 'timed-out') return 3;
  return code === 'sign-in-needed' || code === 'key-not-readable' ? 2 : 1;
}

/** A request of a sign-in: recorded with its secret fields masked by name, in the request and in the response. */
async function sendToken(
  bare: HttpRequest,
  purpose: Purpose,
  { endpoint, resolvers, context }: Signer,
): ReturnType<AuthHost['send']> {
  const isOwn = endpoint !== undefined && originKey(bare.url) === originKey(shownUrl(endpoint));
  const entered = await admit(limitersFor(endpoint, isOwn, bare.url, undefined, context), context);
  if (!entered)
    return {
      broken: { code: 'no-connection', cause: 'paused', phase: 'connect', reached: 'no', message: 'The run pauses' },
    };
  const x = ++context.run.counters.exchanges;
  const sent = { ...bare, headers: [...bare.headers, ['User-Agent', context.run.userAgent] as const] };
  const shown = maskedByName(sent, new Set());
  await recordSent(purpose, { x, hop: 0, pair: { sent, shown, isOwn: false } }, context.run.recorder);
  const options = {
    timeouts: endpoint?.timeouts ?? DEFAULT_TIMEOUTS,
    maxBodyBytes: context.run.maxBodyBytes,
    // As any request of the api: by its proxy, with its certificates.
    connection: connectionOf(endpoint, resolvers.real, context),
    onSending: entered.slots.sent,
  };
  const sending = context.run.waits.sending();
  const result = await context.run.transport.exchange(sent, options, context.run.signal).finally(entered.leave);
  sending();
  entered.slots.sent();
  if (result.response) await entered.hear(result.response);
  if (result.broken) {
    context.run.recorder.record(brokenEvent(x, result.broken));
    return result;
  }
  const { response } = result;
  const decoded = decodeBody(response);
  const masked = decoded.text === undefined ? decoded : { ...decoded, text: maskedFields(decoded.text, decoded.as) };
  context.run.recorder.record(answeredEvent(x, response, masked, context.run.recorder));
  return result;
}

/** Whether there is another credential in place of one that was refused. */
export function isRenewed(
  authenticator: Authenticator | undefined,
  response: HttpResponse,
  generation: number,
): boolean {
  return response.status === 401 && authenticator?.renewed?.(response, generation) === true;
}
