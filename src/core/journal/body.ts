import type { DecodedAs } from '../http/decode.ts';

/** A body on its way into the record: text once it was decoded, else its bytes. */
export type BodyContent = Readonly<{ content: string | Uint8Array; type: string | undefined; as: DecodedAs }>;

/** Ways of decoding that give text in which secrets can be searched. */
export const MASKABLE: ReadonlySet<DecodedAs> = new Set<DecodedAs>(['json', 'xml', 'csv', 'ndjson', 'events', 'text']);
