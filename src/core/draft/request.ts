/** A request as a sample in documentation or a record shows it, before it is a call of a chain. */
export type DraftRequest = Readonly<{
  method: string;
  /** Without its query and fragment. */
  url: string;
  query: readonly (readonly [name: string, value: string])[];
  headers: readonly (readonly [name: string, value: string])[];
  body: DraftBody | undefined;
  /** `user:password` of basic authentication. */
  basic: string | undefined;
  timeout: string | undefined;
}>;

export type DraftBody =
  | Readonly<{ kind: 'json'; text: string }>
  | Readonly<{ kind: 'form'; fields: readonly (readonly [name: string, value: string])[] }>
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
