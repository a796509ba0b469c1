import { headerOf, type HttpRequest } from '../../http/message.ts';
import type { BodyRef, RecordedRequest } from '../../journal/events.ts';
import { readJson } from '../../value/json-read.ts';
import { writtenPath } from '../../path/normalized.ts';
import { differences } from '../../value/difference.ts';
import { showValue } from '../../value/show.ts';
import type { Value } from '../../value/value.ts';

/** Headers that are no part of what a file says. */
const NOT_CONFIGURED = new Set(['user-agent', 'accept-encoding', 'idempotency-key']);
/** Places of a body that are told. */
const MOST = 20;
const MASK = /\u2039[^\u203a]+\u203a/;

/** Where a request is another one than was recorded: method, URL, configured headers, body. Masked parts equal anything. */
export function differencesOf(
  now: HttpRequest,
  before: RecordedRequest,
  bodyOf: (ref: BodyRef) => Uint8Array | undefined,
): readonly string[] {
  const found: string[] = [];
  const compare = (what: string, today: string, then: string) => {
    if (today !== then && !MASK.test(then)) found.push(`${what}: ${today}, recorded: ${then}`);
  };
  compare('method', now.method, before.method);
  compare('URL', now.url, withoutMasked(before.url));
  for (const [name, value] of now.headers) {
    if (!NOT_CONFIGURED.has(name.toLowerCase()))
      compare(`header ${name}`, value, headerOf(before.headers, name) ?? 'none');
  }
  const content = before.body && bodyOf(before.body);
  const then = content && new TextDecoder().decode(content);
  if (typeof now.body !== 'string' && now.body !== undefined) return found;
  if (now.body === then) return found;
  const [left, right] = [now.body, then].map((text) => (text === undefined ? undefined : readJson(text)));
  if (left?.ok && right?.ok) {
    const alike = (wanted: Value) => typeof wanted === 'string' && MASK.test(wanted);
    const apart = differences(right.value, left.value, { atLeast: false, alike });
    for (const { keys, text } of apart.slice(0, MOST)) found.push(`body ${writtenPath(keys)}: ${text}`);
  } else compare('body', showValue(now.body), showValue(then));
  return found;
}

/** A URL without parameters that are secret, which are no part of what is compared. */
function withoutMasked(url: string): string {
  return url.replace(/([?&])[^?&=]+=\u2039[^\u203a]+\u203a(&|$)/g, (_all, before: string, after: string) =>
    after === '' ? '' : before,
  );
}
