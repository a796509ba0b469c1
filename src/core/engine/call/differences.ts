import type { BodyRef, RecordedRequest } from '../../journal/records.ts';
import { headerOf, type HttpRequest } from '../../http/message.ts';
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
  if (typeof now.body !== 'string' && now.body !== undefined) return found;
  const content = before.body && bodyOf(before.body);
  const then = content && new TextDecoder().decode(content);
  const inJson = jsonDifferences(now.body, then);
  if (inJson) found.push(...inJson);
  else if (now.body !== then) compare('body', showValue(now.body), showValue(then));
  return found;
}

/** Where two bodies of JSON differ; nothing when one of them is none. */
function jsonDifferences(now: string | undefined, then: string | undefined): readonly string[] | undefined {
  if (now === undefined || then === undefined || now === then) return undefined;
  const [left, right] = [readJson(now), readJson(then)];
  if (!left.ok || !right.ok) return undefined;
  const alike = (wanted: Value) => typeof wanted === 'string' && MASK.test(wanted);
  const apart = differences(right.value, left.value, { atLeast: false, alike });
  return apart.slice(0, MOST).map(({ keys, text }) => `body ${writtenPath(keys)}: ${text}`);
}

/** A URL without parameters that are secret, which are no part of what is compared. */
function withoutMasked(url: string): string {
  return url.replace(/([?&])[^?&=]+=\u2039[^\u203a]+\u203a(&|$)/g, (_all, before: string, after: string) =>
    after === '' ? '' : before,
  );
}
