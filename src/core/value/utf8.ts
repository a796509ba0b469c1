const strict = new TextDecoder('utf-8', { fatal: true });

/** Bytes as text, a byte-order mark left out; nothing when they are not UTF-8 (RFC 3629), rather than other characters. */
export function utf8Text(bytes: Uint8Array): string | undefined {
  try {
    return strict.decode(bytes);
  } catch {
    return undefined;
  }
}
