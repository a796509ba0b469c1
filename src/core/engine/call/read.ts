import { decodeBody, type Decoded } from '../../http/decode.ts';
import type { Frame } from '../../expression/frame.ts';
import { present } from '../../value/present.ts';
import type { Judging } from '../expect/definition.ts';
import { responseFrame } from '../frames.ts';
import { ResponseView, type ResponseAround } from '../response-names.ts';
import type { Answered } from './sent.ts';
import { serverOf, type CallSite } from './site.ts';

/** A response as it was read: its body, the names that expressions see of it, what judging it needs, and the server that gave it. */
export type ReadResponse = Readonly<{ decoded: Decoded; frame: Frame; judging: Judging; by: string }>;

/** Reads a response; `around` is what is known of its call beside it, `decoded` its body where that was read elsewhere. */
export function readResponse(
  { step, endpoint, context }: CallSite,
  { response, request, x, isOwn }: Pick<Answered, 'response' | 'request' | 'x' | 'isOwn'>,
  around: Omit<ResponseAround, 'url'>,
  decoded: Decoded = decodeBody(response, step.readAs),
): ReadResponse {
  const view = new ResponseView(response, decoded, { ...around, url: request.url }, step.namespaces);
  const frame = responseFrame(context, endpoint, view);
  const answered = isOwn ? { request, response, isJson: decoded.as === 'json' } : undefined;
  const judging = { frame, exchange: x, endpoint, context, ...present({ answered }) };
  return { decoded, frame, judging, by: serverOf(request.url, isOwn, endpoint) };
}
