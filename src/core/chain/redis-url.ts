import type { Node } from '../expression/model.ts';
import type { TextTemplate } from '../template/template.ts';

/** What to say of a URL that names no Redis. */
export const REDIS_URL =
  'It begins with redis:// or, with TLS, rediss://, and names a host: redis://redis.example:6379.';

export function isRedisUrl(text: string): boolean {
  return /^rediss?:\/\/./.test(text) && URL.canParse(text);
}

/** The secret that a placeholder is, and nothing else. */
export function secretNameOf(node: Node): string | undefined {
  if (node.kind !== 'path' || node.start.kind !== 'name' || node.start.name !== 'secret') return undefined;
  const [segment, ...more] = node.segments;
  const selector = segment?.selectors[0];
  return more.length === 0 && selector?.kind === 'name' ? selector.name : undefined;
}

/** The URL with its secrets, each encoded as user names and passwords are there; nothing where one is missing. */
export function redisUrlOf({ pieces }: TextTemplate, find: (name: string) => string | undefined): string | undefined {
  const parts = pieces.map((piece) => {
    if (typeof piece === 'string') return piece;
    const value = find(secretNameOf(piece.node) ?? '');
    return value === undefined ? undefined : encodeURIComponent(value);
  });
  return parts.includes(undefined) ? undefined : parts.join('');
}
