/** Placeholders as documentation writes them inside of a text: `{{id}}`, `{id}`, `$TOKEN`, `${TOKEN}`. */
const INSIDE = /\{\{\s*([\w.-]+)\s*\}\}|(?<![{$])\{([A-Za-z_][\w.-]*)\}(?!\})|\$\{?([A-Z][A-Z0-9_]{2,})\}?/g;

/** The same where they are all of a text: `<id>`, `:id`, `YOUR_API_KEY`, `xxxxx`, `...`. */
const WHOLE: readonly RegExp[] = [
  /^<\s*([A-Za-z][\w .-]*?)\s*>$/,
  /^:([A-Za-z_]\w*)$/,
  /^\[([A-Za-z][\w -]*)\]$/,
  /^(?:(?:your|my)[-_ ]?([A-Za-z][\w -]*?)(?:[-_ ]?here)?)$/i,
  /^([A-Z][A-Z0-9]*(?:_[A-Z0-9]+)*_(?:KEY|TOKEN|ID|SECRET|PASSWORD))$/,
  /^(?:x{3,}|X{3,}|\*{3,}|\.{3}|\u2026)$/,
];

/** A placeholder in a text: where it stands, and what it is called, where it has a name. */
type DocumentedPlaceholder = Readonly<{ from: number; to: number; name: string | undefined }>;

/** The placeholders of documentation in a text. In a JSON body only those that nobody would send as they are. */
export function documentedIn(text: string, isBody = false): readonly DocumentedPlaceholder[] {
  for (const pattern of WHOLE) {
    const found = pattern.exec(text);
    if (found) return [{ from: 0, to: text.length, name: found[1] }];
  }
  const all = [...text.matchAll(INSIDE)].map((found): DocumentedPlaceholder => {
    const [, doubled, single, variable] = found;
    return { from: found.index, to: found.index + found[0].length, name: doubled ?? single ?? variable };
  });
  // Braces may be content there, unless they are all of it.
  const isAll = all.length === 1 && all[0]!.from === 0 && all[0]!.to === text.length;
  return isBody && !isAll ? all.filter(({ from }) => text.startsWith('{{', from)) : all;
}

/** Whether a text is a placeholder of documentation and nothing else, other than one of ours. */
export function isDocumented(text: string): boolean {
  return text !== '...' && WHOLE.some((pattern) => pattern.test(text));
}

/** A name of a chain: `vessel_id` of `vessel-id`, `vesselId` and `VESSEL ID`. */
export function inputName(words: string): string {
  const name = words
    .replace(/([a-z0-9])([A-Z])/g, '$1_$2')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '');
  return /^[a-z]/.test(name) ? name : `value_${name}`.replace(/_$/, '');
}

/** What a nameless placeholder in a path is called: `vessel_id` behind `/vessels/`. */
export function nameBehind(segment: string | undefined): string {
  const singular = (segment ?? '').replace(/ies$/, 'y').replace(/(?<=[^s])s$/, '');
  return inputName(`${singular || 'value'}_id`);
}
