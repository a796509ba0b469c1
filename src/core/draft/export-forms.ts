import type { Header } from '../http/message.ts';
import { curlCommand } from './curl-command.ts';

/** A recorded request; what is secret in it is masked. */
type RecordedSample = Readonly<{ method: string; url: string; headers: readonly Header[] }>;

/** A form in which a recorded request is printed: one entry below. */
type ExportForm = Readonly<{ name: string; print(request: RecordedSample, body: string | undefined): string }>;

/** Headers that are written by whoever sends. */
const OWN: ReadonlySet<string> = new Set(['accept-encoding', 'user-agent', 'content-length', 'host']);

/** The name of a variable for a mask: `HARBOUR_TOKEN` of `\u2039HARBOUR_TOKEN\u203a`. */
function variableOf(mask: string): string {
  return mask
    .slice(1, -1)
    .toUpperCase()
    .replace(/[^A-Z0-9]+/g, '_');
}

const MASKS = /(\u2039[^\u203a]*\u203a)/;

/** A request message (RFC 9112), secrets as placeholders. */
function httpMessage({ method, url, headers }: RecordedSample, body: string | undefined): string {
  const { host, pathname, search } = new URL(
    url.replace(/\u2039[^\u203a]*\u203a/g, (mask) => `__${variableOf(mask)}__`),
  );
  const open = (text: string) => text.replace(/\u2039[^\u203a]*\u203a/g, (mask) => `{{${variableOf(mask)}}}`);
  const target = `${pathname}${search}`.replace(/__([A-Z0-9_]+?)__/g, '{{$1}}');
  const sent = headers.filter(([name]) => !OWN.has(name.toLowerCase()));
  const length = body === undefined ? [] : [`Content-Length: ${new TextEncoder().encode(body).length}`];
  const head = [
    `${method} ${target} HTTP/1.1`,
    `Host: ${host}`,
    ...sent.map(([name, value]) => `${name}: ${open(value)}`),
    ...length,
  ];
  return `${head.join('\n')}\n\n${body === undefined ? '' : open(body)}`.trimEnd();
}

/** A text of JavaScript; what is masked is read from the environment. */
function javaScriptText(text: string): string {
  if (!MASKS.test(text)) return JSON.stringify(text);
  const parts = text.split(MASKS).map((part) => {
    if (part.startsWith('\u2039')) return `\${process.env.${variableOf(part)}}`;
    return part.replace(/[`\\]|\$\{/g, '\\$&');
  });
  return `\`${parts.join('')}\``;
}

/** A call of `fetch` for a program of Node. */
function fetchCall({ method, url, headers }: RecordedSample, body: string | undefined): string {
  const sent = headers.filter(([name]) => !OWN.has(name.toLowerCase()));
  const members = [
    ...(method === 'GET' ? [] : [`  method: ${JSON.stringify(method)},`]),
    ...(sent.length === 0
      ? []
      : [
          '  headers: {',
          ...sent.map(([name, value]) => `    ${JSON.stringify(name)}: ${javaScriptText(value)},`),
          '  },',
        ]),
    ...(body === undefined ? [] : [`  body: ${javaScriptText(body)},`]),
  ];
  const init = members.length === 0 ? '' : `, {\n${members.join('\n')}\n}`;
  return `const response = await fetch(${javaScriptText(url)}${init});`;
}

/** Every form; a new one is an entry here. */
export const exportForms: readonly ExportForm[] = [
  { name: 'curl', print: curlCommand },
  { name: 'http', print: httpMessage },
  { name: 'fetch', print: fetchCall },
];
