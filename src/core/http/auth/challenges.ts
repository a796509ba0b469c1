/** One challenge of `WWW-Authenticate`: its scheme in lower case, and its parameters by name in lower case. */
type Challenge = Readonly<{ scheme: string; parameters: Readonly<Record<string, string>> }>;

const TOKEN = "[!#$%&'*+\\-.^_`|~0-9A-Za-z]+";
const PARAMETER = new RegExp(`(${TOKEN})\\s*=\\s*(?:"((?:[^"\\\\]|\\\\.)*)"|(${TOKEN}))`, 'y');
const SCHEME = new RegExp(`(${TOKEN})(?:[ \\t]+|$|(?=,))`, 'y');
const TOKEN68 = /[A-Za-z0-9\-._~+/]+=*[ \t]*(?=,|$)/y;

/** The challenges of a 401 (RFC 9110 section 11.6.1), several fields joined by commas. What makes no sense is passed over. */
export function challengesOf(header: string | undefined): readonly Challenge[] {
  const text = header ?? '';
  const found: { scheme: string; parameters: Record<string, string> }[] = [];
  let at = 0;
  const take = (pattern: RegExp) => {
    pattern.lastIndex = at;
    const match = pattern.exec(text);
    if (match) at += match[0].length;
    return match;
  };
  while (at < text.length) {
    take(/[\s,]*/y);
    const parameter = take(PARAMETER);
    const last = found.at(-1);
    if (parameter) {
      const [, name = '', quoted, plain = ''] = parameter;
      if (last) last.parameters[name.toLowerCase()] = quoted?.replace(/\\(.)/g, '$1') ?? plain;
      continue;
    }
    const scheme = take(SCHEME);
    if (!scheme) break;
    found.push({ scheme: scheme[1]!.toLowerCase(), parameters: {} });
    PARAMETER.lastIndex = at;
    if (!PARAMETER.test(text)) take(TOKEN68);
  }
  return found;
}
