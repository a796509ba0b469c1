import { curlCommand } from './curl-command.ts';
import { isOfSender, withMasks, type RecordedSample } from './masked.ts';

/** A form in which a recorded request is printed: one entry below. */
type ExportForm = Readonly<{ name: string; print(request: RecordedSample, body: string | undefined): string }>;

/** A request message (RFC 9112), secrets as placeholders. */
function httpMessage({ method, url, headers }: RecordedSample, body: string | undefined): string {
  const asTheyAre = (text: string) => text;
  const { host, pathname, search } = new URL(withMasks(url, asTheyAre, (variable) => `__${variable}__`));
  const open = (text: string) => withMasks(text, asTheyAre, (variable) => `{{${variable}}}`);
  const target = `${pathname}${search}`.replace(/__([A-Z0-9_]+?)__/g, '{{$1}}');
  const sent = headers.filter(([name]) => !isOfSender(name));
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
  const escaped = (literal: string) => literal.replace(/[`\\]|\$\{/g, '\\$&');
  const template = withMasks(text, escaped, (variable) => `\${process.env.${variable}}`);
  return template === escaped(text) ? JSON.stringify(text) : `\`${template}\``;
}

/** A call of `fetch` for a program of Node. */
function fetchCall({ method, url, headers }: RecordedSample, body: string | undefined): string {
  const sent = headers.filter(([name]) => !isOfSender(name));
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
