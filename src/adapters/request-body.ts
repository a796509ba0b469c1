import type { IncomingMessage } from 'node:http';

/** The body of a request that a server of ours gets; nothing where it is longer than it may be, or was cut off. */
export async function requestBody(message: IncomingMessage, maxBytes: number): Promise<Uint8Array | undefined> {
  const chunks: Buffer[] = [];
  let size = 0;
  try {
    for await (const chunk of message) {
      size += (chunk as Buffer).length;
      if (size > maxBytes) return undefined;
      chunks.push(chunk as Buffer);
    }
  } catch {
    return undefined;
  }
  return Buffer.concat(chunks);
}
