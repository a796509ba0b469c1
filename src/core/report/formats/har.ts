import type { EventOf } from '../../journal/events.ts';
import { headerOf, type Header } from '../../http/message.ts';
import { stableName, type CallSummary } from '../call-summary.ts';
import type { ReadExchange } from '../exchange.ts';
import type { RunSummary } from '../run-summary.ts';
import { base64Text } from '../../value/json-write.ts';
import type { ReportFormat } from './definition.ts';

/** HTTP Archive 1.2: every request with its answer, secrets masked; a page for each run. */
export const har: ReportFormat = {
  kind: 'har',
  about: 'HTTP Archive 1.2: every request with its response',
  render: function* (runs, tool) {
    const [name = 'batharon', version = ''] = tool.split(' ');
    const log = {
      version: '1.2',
      creator: { name, version },
      pages: runs
        .filter(({ id }) => id !== '')
        .map(({ id, name: title, startedMs }) => ({
          id,
          title,
          startedDateTime: new Date(startedMs).toISOString(),
          pageTimings: { onContentLoad: -1, onLoad: -1 },
        })),
    };
    // Entries are written one by one: all of them together may be more than a text can hold.
    yield `{"log": ${JSON.stringify(log, null, 2).slice(0, -2)},\n  "entries": [`;
    let before = '\n';
    for (const run of runs) {
      for (const entry of entriesOf(run)) {
        yield `${before}${JSON.stringify(entry)}`;
        before = ',\n';
      }
    }
    yield '\n]}}\n';
  },
};

function* entriesOf(run: RunSummary): Iterable<object> {
  const names: string[] = [];
  const reused: (readonly [name: string, of: CallSummary['reused'][number]])[] = [];
  for (const call of run.calls) {
    const name = stableName(call);
    for (const { x } of [...call.earlier, ...call.exchanges]) names[x] = name;
    for (const each of call.reused) reused.push([name, each]);
  }
  for (const exchange of run.exchanges) yield entryOf(exchange, names[exchange.sent.x], run);
  for (const [name, each] of reused) {
    const exchange = run.exchange(each);
    if (exchange) yield entryOf(exchange, `${name}, reused from run ${each.run}`, run);
  }
}

function entryOf(exchange: ReadExchange, name: string | undefined, run: RunSummary): object {
  const { sent, answered, broken } = exchange;
  const { timings } = answered ?? {};
  const passed = Math.max(0, (broken?.at ?? sent.at) - sent.at);
  const parts = timings
    ? { ...timings, connect: timings.connect + timings.tls, ssl: timings.tls }
    : { blocked: 0, dns: -1, connect: -1, ssl: -1, send: 0, wait: passed, receive: 0 };
  const { blocked, dns, connect, ssl, send, wait, receive } = parts;
  const time = [blocked, dns, connect, send, wait, receive].filter((each) => each > 0).reduce((sum, ms) => sum + ms, 0);
  const [address] = /^[\d.]+(?=:\d+$)|^\[[^\]]+\]/.exec(answered?.remote ?? '') ?? [];
  return {
    pageref: run.id,
    startedDateTime: new Date(sent.at).toISOString(),
    time,
    request: requestOf(exchange),
    response: responseOf(exchange),
    cache: {},
    timings: { blocked, dns, connect, send, wait, receive, ssl },
    ...(address === undefined ? {} : { serverIPAddress: address }),
    comment: [name ?? sent.step, sent.purpose === 'call' ? '' : sent.purpose, broken?.message ?? '']
      .filter(Boolean)
      .join(', '),
  };
}

function requestOf({ sent: { request }, body }: ReadExchange): object {
  const { method, url, headers } = request;
  const content = body(request.body);
  const mimeType = headerOf(headers, 'content-type') ?? '';
  return {
    method,
    url,
    httpVersion: 'HTTP/1.1',
    cookies: cookiesIn(headerOf(headers, 'cookie')),
    headers: pairs(headers),
    queryString: queryOf(url),
    headersSize: -1,
    bodySize: request.body?.size ?? 0,
    ...(request.body ? { postData: { mimeType, text: content ? new TextDecoder().decode(content) : '' } } : {}),
  };
}

function responseOf(exchange: ReadExchange): object {
  const { answered, broken } = exchange;
  return answered ? answeredOf(answered, exchange) : noResponse(broken?.message ?? '');
}

/** What stands for a response that never came (HAR 1.2 has no word for that). */
function noResponse(statusText: string): object {
  const content = { size: 0, mimeType: 'x-unknown' };
  const sizes = { headersSize: -1, bodySize: -1 };
  return {
    status: 0,
    statusText,
    httpVersion: 'HTTP/1.1',
    cookies: [],
    headers: [],
    content,
    redirectURL: '',
    ...sizes,
  };
}

function answeredOf(answered: EventOf<'answered'>, { body }: ReadExchange): object {
  const { headers } = answered;
  const mimeType = headerOf(headers, 'content-type') ?? 'x-unknown';
  return {
    status: answered.status,
    statusText: answered.reason,
    httpVersion: answered.http,
    cookies: (answered.setCookies ?? []).map((name) => ({ name, value: '\u2039Set-Cookie\u203a' })),
    headers: pairs(headers),
    content: { size: answered.body?.size ?? 0, mimeType, ...textOf(answered, body(answered.body)) },
    redirectURL: headerOf(headers, 'location') ?? '',
    headersSize: -1,
    bodySize: answered.encodedSize,
  };
}

function textOf({ decoded }: EventOf<'answered'>, content: Uint8Array | undefined): object {
  if (!content) return {};
  if (decoded === 'bytes' || decoded === 'none') return { text: base64Text(content), encoding: 'base64' };
  return { text: new TextDecoder().decode(content) };
}

function pairs(headers: readonly Header[]): readonly object[] {
  return headers.map(([name, value]) => ({ name, value }));
}

function queryOf(url: string): readonly object[] {
  const mark = url.indexOf('?');
  if (mark < 0) return [];
  return [...new URLSearchParams(url.slice(mark + 1))].map(([name, value]) => ({ name, value }));
}

function cookiesIn(header: string | undefined): readonly object[] {
  return (header?.split(';') ?? []).map((pair) => {
    const [name = '', ...value] = pair.trim().split('=');
    return { name, value: value.join('=') };
  });
}
