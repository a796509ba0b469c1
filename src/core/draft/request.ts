import { isSameName } from '../http/message.ts';
import { plainJson } from './json-text.ts';
import { formDecoded } from '../value/percent.ts';

/** A request as a sample in documentation or a record shows it, before it is a call of a chain. */
export type DraftRequest = Readonly<{
  method: string;
  /** Without its query and fragment. */
  url: string;
  query: readonly (readonly [name: string, value: string])[];
  /** The query as the sample writes it. */
  rawQuery: string;
  headers: readonly (readonly [name: string, value: string])[];
  body: DraftBody | undefined;
  /** `user:password` of basic authentication. */
  basic: string | undefined;
  timeout: string | undefined;
}>;

export type DraftBody =
  | Readonly<{ kind: 'json'; text: string; type?: string | undefined }>
  | Readonly<{
      kind: 'form';
      fields: readonly (readonly [name: string, value: string])[];
      type?: string | undefined;
    }>
  | Readonly<{ kind: 'text'; text: string; type: string | undefined }>
  | Readonly<{ kind: 'file'; path: string; type: string | undefined }>
  | Readonly<{ kind: 'multipart'; fields: readonly DraftField[] }>;

/** A field of a form with files: a text, or the path of a file. */
export type DraftField = Readonly<{ name: string }> &
  (Readonly<{ text: string }> | Readonly<{ file: string; type: string | undefined }>);

/** The parameters of a query string; names and values decoded. */
export function parametersOf(query: string): readonly (readonly [string, string])[] {
  return query
    .split('&')
    .filter((pair) => pair !== '')
    .map((pair) => {
      const split = pair.indexOf('=');
      const [name, value] = split < 0 ? [pair, ''] : [pair.slice(0, split), pair.slice(split + 1)];
      return [formDecoded(name), formDecoded(value)] as const;
    });
}

/** A URL in its parts: what stands before the query, and the query as it is written. A fragment is never sent. */
export function splitTarget(url: string): Readonly<{ url: string; rawQuery: string }> {
  const plain = url.replace(/#.*$/s, '');
  const at = plain.indexOf('?');
  return at < 0 ? { url: plain, rawQuery: '' } : { url: plain.slice(0, at), rawQuery: plain.slice(at + 1) };
}

/** The value of a header; of one that a sample says twice the first. */
export function firstHeader(headers: DraftRequest['headers'], name: string): string | undefined {
  return headers.find(([each]) => isSameName(each, name))?.[1];
}

/** A request of its parts: what type a body has is said by the body, and by no header. */
export function requestOfParts(
  method: string,
  { url, rawQuery }: ReturnType<typeof splitTarget>,
  headers: DraftRequest['headers'],
  body: DraftBody | undefined,
): DraftRequest {
  return {
    method,
    url,
    query: parametersOf(rawQuery),
    rawQuery,
    headers: body ? headers.filter(([name]) => !isSameName(name, 'content-type')) : headers,
    body,
    basic: undefined,
    timeout: undefined,
  };
}

/** How a body is best written, by what its sender says of it. */
export function bodyOfText(text: string, type: string | undefined): DraftBody {
  if (type !== undefined && /[/+]json\b/i.test(type) && plainJson(text) !== undefined)
    return { kind: 'json', text, type };
  if (type !== undefined && /x-www-form-urlencoded/i.test(type) && isFormText(text))
    return { kind: 'form', fields: parametersOf(text), type };
  return { kind: 'text', text, type };
}

/** Whether fields are written as a form writes them, so that writing them again gives the same text. */
export function isFormText(text: string): boolean {
  return formText(parametersOf(text)) === text;
}

function formText(fields: readonly (readonly [string, string])[]): string {
  return new URLSearchParams(fields.map(([name, value]) => [name, value])).toString();
}
