import { zlib } from '../packages.ts';
import { headerOf, type HttpRequest, type RequestBody } from './message.ts';

/** Bytes of a body that is compressed; it is held for that. */
const MAX_BYTES = 256 * 1024 * 1024;

/** The codings that a body is put into (RFC 9110 section 8.4.1). */
const CODINGS = ['gzip', 'deflate', 'br'] as const;
type Coding = (typeof CODINGS)[number];

/**
 * A request whose body is coded as its Content-Encoding says; or why it cannot be. What is sent as it stands in a file is
 * taken to be coded already.
 */
export function withContentCoding(
  request: HttpRequest,
  isFile: boolean,
): Readonly<{ request: HttpRequest }> | Readonly<{ message: string; advice: string }> {
  const { body, headers } = request;
  const said = headerOf(headers, 'content-encoding')?.trim().toLowerCase();
  if (said === undefined || said === 'identity' || isFile || body === undefined) return { request };
  const coding = CODINGS.find((each) => each === said.replace(/^x-/, ''));
  if (!coding) {
    const message = `A body cannot be sent as Content-Encoding: ${said} here`;
    return { message, advice: `Write ${CODINGS.join(', ')}, or send a file that is coded already: file: NAME.` };
  }
  const bytes = bytesOf(body);
  if (bytes) return { request: { ...request, body: coded(bytes, coding) } };
  return {
    message: 'The body is too large to be compressed while it is sent',
    advice: 'Compress it to a file before, and send that: file: NAME.',
  };
}

function bytesOf(body: RequestBody): Uint8Array | undefined {
  if (typeof body === 'string') return new TextEncoder().encode(body);
  if (body instanceof Uint8Array) return body;
  if (body.size > MAX_BYTES) return undefined;
  const all = new Uint8Array(body.size);
  let at = 0;
  for (const piece of body.pieces()) {
    all.set(piece, at);
    at += piece.length;
  }
  return all;
}

/** The same bytes for the same body, so that a request stays the same one. */
function coded(bytes: Uint8Array, coding: Coding): Uint8Array {
  const { gzipSync, deflateSync, brotliCompressSync } = zlib();
  if (coding === 'gzip') return gzipSync(bytes);
  return coding === 'deflate' ? deflateSync(bytes) : brotliCompressSync(bytes);
}
