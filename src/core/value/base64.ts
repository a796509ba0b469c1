/** The bytes that base64 or base64url stands for, with or without padding (RFC 4648); nothing for what is neither. */
export function fromBase64(text: string): Uint8Array | undefined {
  try {
    return Uint8Array.from(atob(text.replaceAll('-', '+').replaceAll('_', '/')), (sign) => sign.charCodeAt(0));
  } catch {
    return undefined;
  }
}

/** The text that base64 or base64url stands for; nothing for what is neither, or no UTF-8. */
export function textOfBase64(text: string): string | undefined {
  const bytes = fromBase64(text);
  try {
    return bytes && new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return undefined;
  }
}

/** The bytes that hexadecimal stands for; nothing for what is none. */
export function fromHex(text: string): Uint8Array | undefined {
  if (!/^(?:[0-9a-f]{2})*$/i.test(text)) return undefined;
  return Uint8Array.from({ length: text.length / 2 }, (_, i) => parseInt(text.slice(2 * i, 2 * i + 2), 16));
}
