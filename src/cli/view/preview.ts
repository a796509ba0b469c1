import type { Origin, PreviewedCall } from '../../core/engine/preview.ts';
import type { HttpRequest } from '../../core/http/message.ts';
import { headerOf } from '../../core/http/message.ts';
import { mediaTypeOf } from '../../core/http/decode.ts';
import { headerLines, showBody } from './exchange.ts';
import type { Palette } from './palette.ts';
import { padded, sized } from './text.ts';
import { visible } from '../../core/value/visible.ts';

/** A request as it would go out, and where its values come from. */
export function showPreviewed(call: PreviewedCall, palette: Palette): string {
  const { name, chain, isAnywhere, endpoint, when, origins } = call;
  const where = endpoint ? [endpoint.api, ...(endpoint.deployment === undefined ? [] : [endpoint.deployment])] : [];
  const inside = chain === undefined ? '' : palette.quiet(`in the chain ${chain}`);
  const head = [
    palette.strong(name),
    where.join(' at '),
    inside,
    when === undefined ? '' : palette.quiet(`when ${when}`),
  ];
  return [
    head.filter((part) => part !== '').join('   '),
    ...('problem' in call
      ? [`  ${palette.bad(`${call.problem.code}: ${visible(call.problem.message)}`)}`]
      : requestLines(call.request, palette).map((line) => (line === '' ? '' : `  ${line}`))),
    ...(isAnywhere && endpoint
      ? ['', palette.quiet(`  Headers and credentials of ${endpoint.api} are added if the URL is on its server.`)]
      : []),
    ...(origins.length > 0 ? ['', ...originLines(origins, palette)] : []),
  ].join('\n');
}

/** A request as it would go out: its line, its headers, its body. */
export function requestLines(request: HttpRequest, palette: Palette): readonly string[] {
  const { method, url, headers, body } = request;
  const { type } = mediaTypeOf(headerOf(headers, 'content-type'));
  const text = textOfBody(body);
  const shown = text === undefined ? undefined : showBody(new TextEncoder().encode(text), type, palette);
  return [
    `${palette.strong(method)} ${visible(url)}`,
    ...headerLines(headers, palette),
    ...(shown === undefined ? [] : ['', ...shown.split('\n')]),
  ];
}

/** A body in words: one that is no text by its size. */
export function textOfBody(body: HttpRequest['body']): string | undefined {
  if (body === undefined || typeof body === 'string') return body;
  if (!(body instanceof Uint8Array)) return `(${sized(body.size)} of a file)`;
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(body);
  } catch {
    return `(${sized(body.length)})`;
  }
}

/** `day   '2026-05-23'   an input`, in columns. */
export function originLines(origins: readonly Origin[], palette: Palette): readonly string[] {
  const width = Math.min(30, Math.max(...origins.map(({ text }) => text.length)));
  const known = (value: string | undefined) => visible(value ?? 'not known yet');
  const valueWidth = Math.min(24, Math.max(...origins.map(({ value }) => known(value).length)));
  const rows = origins.map(
    ({ text, value, from }) =>
      `${padded(visible(text), width)}   ${padded(known(value), valueWidth)}   ${palette.quiet(visible(from))}`,
  );
  return [...new Set(rows)].map((text) => `  ${text}`);
}
