import { readJson } from '../../core/value/json-read.ts';
import { STATUS_CODES } from './status-codes.ts';
import type { BodyRef } from '../../core/journal/events.ts';
import { tookOf, type ExchangeRecord } from '../../core/report/exchange.ts';
import { stepName } from '../../core/report/history.ts';
import { prettyJson } from './json.ts';
import type { Palette } from './palette.ts';
import { sized, spent, visible } from './text.ts';

/** Reads a recorded body; `undefined` when it was not kept. */
export type ReadBody = (ref: BodyRef) => Uint8Array | undefined;

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
    ...headerLines(request.headers, palette),
    ...bodyLines(request.body, readBody, palette),
    '',
    answered
      ? statusLine(answered.status, answered.reason, palette)
      : palette.bad(broken ? broken.message : 'no response was recorded'),
    ...(answered ? [...headerLines(answered.headers, palette), ...bodyLines(answered.body, readBody, palette)] : []),
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
  if ('dropped' in ref) return ['', palette.quiet(`${sized(ref.size)}, not recorded: a secret was found in it`)];
  const content = readBody(ref);
  if (!content) return ['', palette.quiet('the body is no longer there')];
  return ['', showBody(content, ref.type, palette)];
}

/** A body for reading: JSON pretty, text as it is, anything else by its size. */
export function showBody(content: Uint8Array, type: string | undefined, palette: Palette): string {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(content);
  } catch {
    return palette.quiet(`${sized(content.length)} of ${type ?? 'bytes'}`);
  }
  const json = type === undefined || type.includes('json') ? readJson(text) : undefined;
  return json?.ok ? prettyJson(json.value, palette) : visible(text);
}
