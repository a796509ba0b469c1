import { promisify } from 'node:util';
import { brotliDecompress, gunzip, inflate, inflateRaw, type ZlibOptions } from 'node:zlib';

const CODINGS: Readonly<Record<string, (data: Uint8Array, options: ZlibOptions) => Promise<Buffer>>> = {
  gzip: promisify(gunzip) as never,
  'x-gzip': promisify(gunzip) as never,
  br: promisify(brotliDecompress) as never,
  // RFC 9110 section 8.4.1.2: the zlib format, though some servers send the raw one.
  deflate: (data, options) =>
    (
      promisify(((data[0] ?? 0) & 0x0f) === 8 ? inflate : inflateRaw) as (
        data: Uint8Array,
        options: ZlibOptions,
      ) => Promise<Buffer>
    )(data, options),
};

/** Codings that may be stacked; stops a small body that unpacks into a huge one by many layers. */
const MAX_CODINGS = 3;

type Decompressed =
  | Readonly<{ body: Uint8Array; reason?: undefined }>
  | Readonly<{ reason: 'too-big' | 'damaged' | 'unknown' | 'too-many'; what: string }>;

/** Undoes the content codings of a body, last applied first (RFC 9110 section 8.4). */
export async function decompress(
  body: Uint8Array,
  header: string | undefined,
  maxBytes: number,
): Promise<Decompressed> {
  const codings = (header ?? '')
    .split(',')
    .map((each) => each.trim().toLowerCase())
    .filter((each) => each !== '' && each !== 'identity');
  if (codings.length === 0 || body.length === 0) return { body };
  if (codings.length > MAX_CODINGS) return { reason: 'too-many', what: codings.join(', ') };
  let data = body;
  for (const coding of codings.reverse()) {
    const undo = CODINGS[coding];
    if (!undo) return { reason: 'unknown', what: coding };
    try {
      data = await undo(data, { maxOutputLength: maxBytes });
    } catch (error) {
      const tooBig = (error as NodeJS.ErrnoException).code === 'ERR_BUFFER_TOO_LARGE';
      return { reason: tooBig ? 'too-big' : 'damaged', what: coding };
    }
  }
  return { body: data };
}
