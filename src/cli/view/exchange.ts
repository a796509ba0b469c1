import { readableText } from '../../core/http/decode.ts';
import type { BodyRef } from '../../core/journal/records.ts';
import { readJson } from '../../core/value/json-read.ts';
import { STATUS_CODES } from './status-codes.ts';
import type { EventOf } from '../../core/journal/events.ts';
import { tookOf, type ExchangeRecord } from '../../core/report/exchange.ts';
import { stepName } from '../../core/journal/address.ts';
import { prettyJson } from './json.ts';
import type { Palette } from './palette.ts';
import { padded, paddedLeft, sized } from './text.ts';
import { contentForm } from '../../core/value/content-form.ts';
import { visible } from '../../core/value/visible.ts';
import type { LineOfBody } from '../../core/path/lines.ts';
import { showValue, spent } from '../../core/value/show.ts';

/** Reads a recorded body; `undefined` when it was not kept. */
type ReadBody = (ref: BodyRef) => Uint8Array | undefined;

/** An exchange as it was sent and received, masked, its bodies pretty. */
export function showExchange(record: ExchangeRecord, run: string, readBody: ReadBody, palette: Palette): string {
  const { sent, answered, broken } = record;
  const took = tookOf(record);
  const head = [
    palette.strong(stepName(sent.step)),
    palette.quiet(`run ${run}`),
    took === undefined ? '' : palette.quiet(spent(took)),
  ];
  const { request } = sent;
  return [
    head.filter((part) => part !== '').join('   '),
    '',
    `${palette.strong(request.method)} ${visible(request.url)}`,
    ...operationLines(sent, palette),
    ...headerLines(request.headers, palette),
    ...bodyLines(request.body, readBody, palette),
    '',
    answered
      ? statusLine(answered.status, answered.reason, palette)
      : palette.bad(broken ? broken.message : 'no response was recorded'),
    ...(answered ? [...headerLines(answered.headers, palette), ...bodyLines(answered.body, readBody, palette)] : []),
  ].join('\n');
}

/** The operation of a description that a request belongs to. */
export function operationLines({ operation }: EventOf<'sent'>, { quiet }: Palette): readonly string[] {
  return operation ? [quiet(`operation ${visible(operation.name)} of ${visible(operation.file)}`)] : [];
}

/** A callback as it was received, and what it was answered. */
export function showCallback(
  { name, request, answered, answer }: EventOf<'called-back'>,
  run: string,
  readBody: ReadBody,
  palette: Palette,
): string {
  return [
    [palette.strong(name), palette.quiet(`run ${run}`), palette.quiet('received')].join('   '),
    '',
    `${palette.strong(request.method)} ${visible(request.url)}`,
    ...headerLines(request.headers, palette),
    ...bodyLines(request.body, readBody, palette),
    '',
    `${palette.quiet('answered')} ${statusLine(answered, '', palette)}`,
    ...headerLines(answer?.headers ?? [], palette),
    ...bodyLines(answer?.body, readBody, palette),
  ].join('\n');
}

export function statusLine(status: number, reason: string, palette: Palette): string {
  const paint = status < 400 ? palette.good : palette.bad;
  return paint(`${status} ${visible(reason === '' ? (STATUS_CODES[status] ?? '') : reason)}`.trimEnd());
}

export function headerLines(headers: readonly (readonly [string, string])[], palette: Palette): readonly string[] {
  return headers.map(([name, value]) => `${palette.quiet(`${visible(name)}:`)} ${visible(value)}`);
}

function bodyLines(ref: BodyRef | undefined, readBody: ReadBody, palette: Palette): readonly string[] {
  if (!ref) return [];
  if ('dropped' in ref) return ['', palette.quiet(`${sized(ref.size)}, ${DROPPED[ref.dropped]}`)];
  const content = readBody(ref);
  if (!content) return ['', palette.quiet('the body is no longer available')];
  return ['', showBody(content, ref.type, palette)];
}

/** Why a body is not in the record. */
const DROPPED = {
  'binary-secret': 'not recorded: a secret was found in it',
  polled: 'not recorded: an earlier poll',
  saved: 'saved to a file',
  streamed: 'its array is beside the journal, a line for each item',
  size: 'too large to be recorded',
} as const;

/** `PNG image, 640 x 480 pixels, 12 kB, as image/png`: what it is by its own form, and what it was sent as. */
export function binaryWords(content: Uint8Array, type: string | undefined): string {
  const form = contentForm(content);
  if (!form) return `${sized(content.length)} of ${type ?? 'bytes'}`;
  const { name, size } = form;
  const parts = [name, size && `${size.width} x ${size.height} pixels`, sized(content.length), type && `as ${type}`];
  return parts.filter(Boolean).join(', ');
}

/** A body for reading: JSON pretty, XML indented, text as it is, anything else by its size. */
export function showBody(content: Uint8Array, type: string | undefined, palette: Palette): string {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(content);
  } catch {
    return palette.quiet(binaryWords(content, type));
  }
  const json = type === undefined || type.includes('json') ? readJson(text) : undefined;
  if (json?.ok) return prettyJson(json.value, palette);
  return visible(readableText(text, type));
}

/** `$.arrivals[0].id   'A-318'`: the path of each value of a body, in columns. */
export function pathLines(lines: readonly LineOfBody[], palette: Palette): readonly string[] {
  const width = Math.min(60, Math.max(...lines.map(({ path }) => path.length)));
  return lines.map(({ path, value }) => `${palette.name(padded(visible(path), width))}   ${visible(showValue(value))}`);
}

/** A line for each exchange of a call: tries, redirects, requests for a credential. */
export function tryLines(exchanges: readonly ExchangeRecord[], palette: Palette): readonly string[] {
  return exchanges.map((exchange, i) => {
    const { sent, answered, broken } = exchange;
    const outcome = answered
      ? statusLine(answered.status, answered.reason, palette)
      : palette.bad(broken ? broken.message : 'no response');
    const why = sent.purpose === 'token' ? 'token' : sent.hop > 0 ? 'redirected' : '';
    const time = palette.quiet(spent(tookOf(exchange) ?? 0));
    const head = `${paddedLeft(String(i + 1), 3)}  ${sent.request.method} ${visible(sent.request.url)}`;
    return [head, outcome, time, palette.quiet(why)].filter((part) => part !== palette.quiet('')).join('   ');
  });
}
