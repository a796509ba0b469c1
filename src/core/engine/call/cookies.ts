import type { CookiePair, Pair } from './build.ts';
import type { CallSite } from './site.ts';

/** The cookies of the jar that go with a request, and their names for the record. */
export function cookiesFor({ sent, isOwn }: Pair, { context, endpoint }: CallSite): CookiePair | undefined {
  const cookies = isOwn ? context.sessions.jarOf(endpoint!).cookiesFor(sent.url) : [];
  if (cookies.length === 0) return undefined;
  const joined = (value: (cookie: (typeof cookies)[number]) => string) =>
    cookies.map((cookie) => `${cookie.name}=${value(cookie)}`).join('; ');
  return { sent: joined(({ value }) => value), shown: joined(({ name }) => `\u2039${name}\u203a`) };
}
