/** A key as a part of a JSON Pointer (RFC 6901 section 3). */
export function pointerPart(key: string | number): string {
  return `/${String(key).replaceAll('~', '~0').replaceAll('/', '~1')}`;
}

/** The keys of a JSON Pointer. */
export function pointerKeys(pointer: string): readonly string[] {
  return pointer
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
}
