import type { BodySink, Broken, Limit } from '../core/http/message.ts';
import type { ExchangeOptions } from '../core/ports.ts';
import { counted } from '../core/value/show.ts';
import type { Pumped } from './sink-pump.ts';

/** Why we ended an exchange ourselves. */
export type Stop = Readonly<{ code: Broken['code']; message: string; limit?: Limit }>;

/** A limit was reached; the words say how far it had come. */
export function timeOutStop(
  what: Limit,
  milliseconds: number,
  { size, hasHeaders }: Readonly<{ size: number; hasHeaders: boolean }>,
): Stop {
  const waited = `${milliseconds / 1000} s`;
  const words: Readonly<Record<Limit, string>> = {
    connect: `No connection within ${waited}`,
    response: `No response within ${waited} after the request was sent`,
    idle: `The body stalled: no data for ${waited}, after ${counted(size, 'byte')}`,
    whole: hasHeaders
      ? `Not complete within ${waited}: ${counted(size, 'byte')} of the body arrived`
      : `Not complete within ${waited}: no response arrived`,
  };
  return { code: 'timed-out', message: words[what], limit: what };
}

export function tooBig({ maxBodyBytes }: Pick<ExchangeOptions, 'maxBodyBytes'>): Stop {
  return {
    code: 'body-too-big',
    message: `The body exceeds ${maxBodyBytes / 1024 / 1024} MiB after decompression`,
  };
}

/** Why a body did not go into its sink to its end. */
export function pumpingStop(pumped: Pumped, { maxBytes = 0 }: BodySink): Stop {
  if (!('message' in pumped)) return tooBig({ maxBodyBytes: maxBytes });
  return { code: pumped.outcome === 'damaged' ? 'not-decodable' : 'not-writable', message: pumped.message };
}

export function unpackingStop(
  reason: 'too-big' | 'damaged' | 'unknown' | 'too-many',
  what: string,
  options: ExchangeOptions,
): Stop {
  switch (reason) {
    case 'too-big':
      return tooBig(options);
    case 'damaged':
      return {
        code: 'not-decodable',
        message: `The body is declared as compressed with ${what}, but cannot be decompressed`,
      };
    case 'unknown':
      return {
        code: 'not-decodable',
        message: `The body has the encoding "${what}", which was not requested and is not supported`,
      };
    case 'too-many':
      return {
        code: 'over-limit',
        message: `The body is encoded more than three times: ${what}`,
      };
  }
}
