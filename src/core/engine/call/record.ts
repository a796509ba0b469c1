import type { BodyRef, OperationRef, PlaceholderRecord } from '../../journal/records.ts';
import { changesSomething, mayRepeat } from '../../chain/changes.ts';
import type { CallStep } from '../../chain/model.ts';
import { mediaTypeOf, type Decoded } from '../../http/decode.ts';
import {
  headerOf,
  isSameName,
  type Broken,
  type Header,
  type HttpResponse,
  type RequestBody,
} from '../../http/message.ts';
import { isChanging, isRepeatable } from '../../http/methods.ts';
import { crypto } from '../../packages.ts';
import type { EventBody, EventOf } from '../../journal/events.ts';
import { present } from '../../value/present.ts';
import type { Recorder } from '../../journal/recorder.ts';
import type { CallSite } from './site.ts';
import type { Pair } from './build.ts';
import { maskedFields } from './token-fields.ts';

/** What a request is sent for, and by which step. */
export type Purpose = Readonly<{
  purpose: EventOf<'sent'>['purpose'];
  /** The address of the step, and the key by which it is known when steps are moved. */
  address: string;
  key: string;
  api: string;
  operation?: OperationRef | undefined;
  repeatable: boolean;
  changing: boolean;
  idempotencyKey?: string | undefined;
  placeholders?: readonly PlaceholderRecord[];
  /** The page or look of the call. */
  round?: Readonly<{ page?: number; attempt?: number }>;
  tryNumber?: number;
  /** The fingerprint of the call that it belongs to. */
  requestFingerprint?: string;
}>;

/** What a hop of a call is sent for; one that a redirect led to has a method of its own. */
export function purposeOf(step: CallStep, hop: number, method: string): Pick<Purpose, 'repeatable' | 'changing'> {
  if (hop === 0) return { repeatable: mayRepeat(step), changing: changesSomething(step) };
  return { repeatable: isRepeatable(method), changing: isChanging(method) };
}

/**
 * Records a request. One that may not be sent twice goes out when what this gives has resolved, and the record is on the
 * disk: even a power cut leaves a trace of it.
 */
export function recordSent(
  {
    purpose,
    address,
    key,
    api,
    operation,
    repeatable,
    changing,
    idempotencyKey,
    placeholders = [],
    round = {},
    tryNumber = 1,
    requestFingerprint,
  }: Purpose,
  { x, hop, pair }: Readonly<{ x: number; hop: number; pair: Pair }>,
  recorder: Recorder,
): Promise<void> | undefined {
  const { method, url, headers, body } = pair.shown;
  const type = headerOf(headers, 'content-type');
  const content = purpose !== 'token' || typeof body !== 'string' ? body : maskedFields(body, type);
  const recorded = content === undefined ? {} : { body: recordedBody(content, type, recorder) };
  recorder.record({
    type: 'sent',
    x,
    step: address,
    key,
    purpose,
    ...(round.page === undefined ? {} : { page: round.page }),
    ...(round.attempt === undefined ? {} : { attempt: round.attempt }),
    tryNumber,
    hop,
    api,
    ...present({ operation, idempotencyKey }),
    request: { method, url, headers, ...recorded },
    ...(placeholders.length === 0 ? {} : { placeholders: [...placeholders] }),
    repeatable,
    changing,
    ...(requestFingerprint === undefined ? {} : { requestFingerprint }),
    flushed: !repeatable,
  });
  return repeatable ? undefined : recorder.sync();
}

function recordedBody(content: RequestBody, header: string | undefined, recorder: Recorder): BodyRef {
  const { type } = mediaTypeOf(header);
  if (typeof content === 'string') return recorder.body({ content, type, as: 'text' });
  if (content instanceof Uint8Array) return recorder.body({ content, type, as: 'bytes' });
  return { sha256: digestOf(content), size: content.size, ...(type ? { type } : {}), dropped: 'size' };
}

/** SHA-256 of a body, in hexadecimal. */
export function digestOf(body: RequestBody): string {
  const hash = crypto().createHash('sha256');
  if (typeof body === 'string' || body instanceof Uint8Array) hash.update(body);
  else for (const piece of body.pieces()) hash.update(piece);
  return hash.digest('hex');
}

/** What came back. Of a body that went elsewhere the record says only what it was. */
export function answeredEvent(
  x: number,
  response: HttpResponse,
  decoded: Decoded,
  recorder: Recorder,
  elsewhere?: BodyRef,
): EventBody {
  const { type } = mediaTypeOf(headerOf(response.headers, 'content-type'));
  const content = decoded.text ?? response.body;
  const body = elsewhere ?? (response.body.length > 0 ? recorder.body({ content, type, as: decoded.as }) : undefined);
  const cookies = response.headers.filter(isSetCookie);
  const setCookies = cookies.map(([, value]) => /^\s*([^=;]*)/.exec(value)![1]!.trim());
  return {
    type: 'answered',
    x,
    status: response.status,
    reason: response.reason,
    http: response.http,
    headers: cookies.length === 0 ? response.headers : response.headers.map(withCookieMasked),
    ...(body ? { body } : {}),
    decoded: decoded.as,
    encodedSize: response.encodedSize,
    ...(response.remote === undefined ? {} : { remote: response.remote }),
    reused: response.reused,
    ...(setCookies.length > 0 ? { setCookies } : {}),
    timings: response.timings,
  };
}

function isSetCookie([name]: Header): boolean {
  return isSameName(name, 'set-cookie');
}

/** Cookies are credentials: their values are masked whatever they are. */
function withCookieMasked(header: Header): Header {
  const [name, value] = header;
  return isSetCookie(header) ? [name, value.replace(/^([^=;]*)=([^;]*)/, '$1=‹Set-Cookie›')] : header;
}

/** Why no response came. */
export function brokenEvent(x: number, { cause, phase, reached, message }: Broken): EventBody {
  return { type: 'broken', x, cause, phase, reached, message };
}

/** What is to be recorded of a call: answers that stand in a record already are not told twice. */
export function newEvents({ replayed }: CallSite, events: readonly EventBody[]): readonly EventBody[] {
  return replayed ? events.filter(({ type }) => type !== 'answered') : events;
}
