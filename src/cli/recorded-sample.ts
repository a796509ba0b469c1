import type { RecordedRun } from '../adapters/journal-reader.ts';
import type { Sample } from '../core/draft/definition.ts';
import { mark } from '../core/draft/marks.ts';
import { bodyOfText, parametersOf, splitTarget } from '../core/draft/request.ts';
import { headerOf } from '../core/http/message.ts';
import type { ExchangeRecord } from '../core/report/exchange.ts';
import { bodyText } from '../runner/record.ts';

/** Headers that are made anew for each request. */
const OWN: ReadonlySet<string> = new Set([
  'accept-encoding',
  'user-agent',
  'content-length',
  'host',
  'idempotency-key',
]);

/** A recorded exchange as a sample: secrets, which are masked in it, by their names. */
export function sampleOf({ sent, answered }: ExchangeRecord, record: RecordedRun): Sample {
  const { method, url, headers, body } = sent.request;
  const { url: base, rawQuery } = splitTarget(url);
  const type = headerOf(headers, 'content-type');
  const text = bodyText(record, body);
  const kept = headers.filter(([name, value]) => {
    const lower = name.toLowerCase();
    return (
      !OWN.has(lower) &&
      !(lower === 'cookie' && value.includes('\u2039')) &&
      (lower !== 'content-type' || text === undefined)
    );
  });
  return {
    request: {
      method,
      url: base,
      query: parametersOf(rawQuery).map(([name, value]) => [name, named(value)] as const),
      rawQuery,
      headers: kept
        .filter(([name, value]) => !(name.toLowerCase() === 'accept' && value === '*/*'))
        .map(([name, value]) => [name, named(value)] as const),
      body: text === undefined ? undefined : bodyOfText(text, type),
      basic: undefined,
      timeout: undefined,
    },
    response: answered && { status: answered.status, cookies: new Map(), json: undefined },
  };
}

/** A recorded text with the names of its secrets in place of their masks. */
function named(text: string): string {
  return text.replace(/\u2039([A-Za-z_]\w*)\u203a/g, (_mask, name: string) => mark(`secret.${name}`));
}
