/** Where a value stands in a JSON text: offsets of its first character and behind its last. */
export type Span = readonly [from: number, to: number];

const STRING = /"(?:[^"\\]|\\.)*"/y;
const PLAIN = /[^\s,\]}]+/y;

/**
 * The place of the value that member names and indexes lead to, in a text that is known to be JSON (RFC 8259). Of double
 * member names the last counts, as when it is read.
 */
export function spanAt(text: string, keys: readonly (string | number)[]): Span | undefined {
  let at = blank(text, text.charCodeAt(0) === 0xfeff ? 1 : 0);
  for (const key of keys) {
    const found = [...childrenAt(text, at)].findLast((child) => child.key === key);
    if (!found) return undefined;
    at = found.at;
  }
  return [at, skip(text, at)];
}

/** A replacement of a span of a JSON text that adds members to an object, each on a line of its own where the others are. */
export function addedMembers(
  text: string,
  keys: readonly (string | number)[],
  members: readonly (readonly [name: string, json: string])[],
): Readonly<{ span: Span; json: string }> {
  const [start] = spanAt(text, keys)!;
  const children = [...childrenAt(text, start)];
  const last = children.at(-1);
  const first = blank(text, start + 1);
  const lead = text.slice(start + 1, first);
  const gap = last && !/\s/.test(text[last.at - 1]!) ? '' : ' ';
  const added = members.map(([name, json]) => `${JSON.stringify(name)}:${gap}${json}`);
  if (!last) return { span: [start + 1, first], json: added.join(', ') };
  const end = skip(text, last.at);
  const between = lead === '' ? gap : lead;
  return { span: [end, end], json: added.map((member) => `,${between}${member}`).join('') };
}

/** The members or items of the container at an offset. */
function* childrenAt(text: string, start: number): Generator<{ key: string | number; at: number }> {
  const isObject = text[start] === '{';
  if (!isObject && text[start] !== '[') return;
  let at = blank(text, start + 1);
  for (let index = 0; text[at] !== '}' && text[at] !== ']'; index++) {
    let key: string | number = index;
    if (isObject) {
      const end = match(STRING, text, at);
      key = JSON.parse(text.slice(at, end)) as string;
      at = blank(text, blank(text, end) + 1);
    }
    yield { key, at };
    at = blank(text, skip(text, at));
    if (text[at] === ',') at = blank(text, at + 1);
  }
}

/** The offset behind the value at an offset. */
function skip(text: string, start: number): number {
  if (text[start] === '"') return match(STRING, text, start);
  if (text[start] !== '{' && text[start] !== '[') return match(PLAIN, text, start);
  let depth = 0;
  for (let at = start; ; at++) {
    const sign = text[at];
    if (sign === '"') at = match(STRING, text, at) - 1;
    else if (sign === '{' || sign === '[') depth++;
    else if ((sign === '}' || sign === ']') && --depth === 0) return at + 1;
  }
}

function blank(text: string, start: number): number {
  let at = start;
  while (' \t\r\n'.includes(text[at] ?? '?')) at++;
  return at;
}

function match(pattern: RegExp, text: string, at: number): number {
  pattern.lastIndex = at;
  return at + (pattern.exec(text)?.[0].length ?? 1);
}
