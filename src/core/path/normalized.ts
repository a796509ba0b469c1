import type { Located } from './evaluate.ts';

/** The normalized path of a node (RFC 9535 section 2.7): `$['arrivals'][0]['id']`. */
export function normalizedPath(node: Located): string {
  return keysOf(node).reduce<string>(
    (path, key) => path + (typeof key === 'number' ? `[${key}]` : `['${escaped(key)}']`),
    '$',
  );
}

/** The same place as people write it: `$.arrivals[0].id`, with brackets only where a name needs them. */
export function writtenPath(keys: readonly (string | number)[], start = '$'): string {
  return keys.reduce<string>((path, key) => path + writtenKey(key), start);
}

export function writtenKey(key: string | number): string {
  if (typeof key === 'number') return `[${key}]`;
  return /^[A-Za-z_\u0080-\uffff][A-Za-z0-9_\u0080-\uffff]*$/.test(key) ? `.${key}` : `['${escaped(key)}']`;
}

/** Member names and indexes from the root down to the node. */
export function keysOf(node: Located): readonly (string | number)[] {
  const keys: (string | number)[] = [];
  for (let at: Located = node; at.parent !== undefined; at = at.parent) keys.push(at.key);
  return keys.reverse();
}

const SHORT: Readonly<Record<string, string>> = {
  '\b': '\\b',
  '\t': '\\t',
  '\n': '\\n',
  '\f': '\\f',
  '\r': '\\r',
  "'": "\\'",
  '\\': '\\\\',
};

/** A member name inside single quotes, with the escapes that a normalized path uses. */
export function escaped(name: string): string {
  return name.replace(/[\u0000-\u001f'\\]/g, (c) => SHORT[c] ?? `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`);
}
