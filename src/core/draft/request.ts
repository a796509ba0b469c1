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
      return [decoded(name), decoded(value)] as const;
    });
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text.replaceAll('+', ' '));
  } catch {
    return text;
  }
}

/** A URL in its parts: what stands before the query, and the query as it is written. A fragment is never sent. */
export function splitTarget(url: string): Readonly<{ url: string; rawQuery: string }> {
  const plain = url.replace(/#.*$/s, '');
  const at = plain.indexOf('?');
  return at < 0 ? { url: plain, rawQuery: '' } : { url: plain.slice(0, at), rawQuery: plain.slice(at + 1) };
}

/** How a body is best written, by what its sender says of it. */
export function bodyOfText(text: string, type: string | undefined): DraftBody {
  if (type !== undefined && /[/+]json\b/i.test(type) && isJsonText(text)) return { kind: 'json', text, type };
  if (type !== undefined && /x-www-form-urlencoded/i.test(type) && isFormText(text))
    return { kind: 'form', fields: parametersOf(text), type };
  return { kind: 'text', text, type };
}

function isJsonText(text: string): boolean {
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false;
  }
}

/** Whether fields are written as a form writes them, so that writing them again gives the same text. */
export function isFormText(text: string): boolean {
  return formText(parametersOf(text)) === text;
}

function formText(fields: readonly (readonly [string, string])[]): string {
  return new URLSearchParams(fields.map(([name, value]) => [name, value])).toString();
}
