import type { RecordedRun } from '../adapters/journal-reader.ts';
import type { Sample } from '../core/draft/definition.ts';
import { mark } from '../core/draft/marks.ts';
import { isOfSender } from '../core/draft/masked.ts';
import { bodyOfText, requestOfParts, splitTarget } from '../core/draft/request.ts';
import { headerOf, type Header } from '../core/http/message.ts';
import type { ExchangeRecord } from '../core/report/exchange.ts';
import { bodyText } from '../runner/record.ts';

/** A recorded exchange as a sample: secrets, which are masked in it, by their names. */
export function sampleOf({ sent, answered }: ExchangeRecord, record: RecordedRun): Sample {
  const { method, url, headers, body } = sent.request;
  const text = bodyText(record, body);
  const kept = headers.filter(([name, value]) => {
    const lower = name.toLowerCase();
    const isDefault = lower === 'accept' && value === '*/*';
    return (
      !isOfSender(name) &&
      lower !== 'idempotency-key' &&
      !isDefault &&
      !(lower === 'cookie' && value.includes('\u2039'))
    );
  });
  const draftBody = text === undefined ? undefined : bodyOfText(text, headerOf(headers, 'content-type'));
  const request = requestOfParts(method, splitTarget(url), named(kept), draftBody);
  return {
    request: { ...request, query: named(request.query) },
    response: answered && { status: answered.status, cookies: new Map(), json: undefined },
  };
}

/** Recorded texts with the names of their secrets in place of the masks. */
function named(entries: readonly Header[]): readonly Header[] {
  return entries.map(([name, text]) => [
    name,
    text.replace(/\u2039([A-Za-z_]\w*)\u203a/g, (_mask, secret: string) => mark(`secret.${secret}`)),
  ]);
}
