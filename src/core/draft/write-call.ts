import { looksLikeSecret } from '../chain/looks-like-secret.ts';
import { base64Text } from '../value/json-write.ts';
import { readJson } from '../value/json-read.ts';
import { numberText, isNumber } from '../value/numbers.ts';
import { isList, isObject, type Value } from '../value/value.ts';
import { yamlQuoted, yamlScalar } from '../yaml/quoting.ts';
import type { DraftField, DraftRequest } from './request.ts';

/** A secret that was found in a sample: its name in `secrets.env`, and its value. */
export type FoundSecret = Readonly<{ name: string; value: string }>;

/** How a request authenticates, with secrets in place of values, as lines under `auth:`. */
type DraftAuth = Readonly<{
  lines: readonly string[];
  secrets: readonly FoundSecret[];
  headers: ReadonlySet<string>;
  query: ReadonlySet<string>;
}>;

const KEY_NAME = /(?:^|[-_.])(?:api[-_]?key|token|secret|access[-_]?key)$/i;

/** What of a request is a credential: it belongs to the api, and its value into `secrets.env`. */
export function authOf({ headers, query, basic }: DraftRequest, api: string): DraftAuth | undefined {
  const prefix = api.toUpperCase().replace(/[^A-Z0-9]+/g, '_');
  const made = (
    lines: readonly string[],
    secrets: readonly FoundSecret[],
    header?: string,
    parameter?: string,
  ): DraftAuth => ({
    lines,
    secrets,
    headers: new Set(header === undefined ? [] : [header]),
    query: new Set(parameter === undefined ? [] : [parameter]),
  });
  if (basic !== undefined) {
    const [user = '', ...rest] = basic.split(':');
    const secrets = [{ name: `${prefix}_PASSWORD`, value: rest.join(':') }];
    return made([`basic: { user: ${yamlScalar(user, true)}, password: "{secret.${prefix}_PASSWORD}" }`], secrets);
  }
  for (const [name, value] of headers) {
    const bearer = /^Bearer\s+(.+)$/i.exec(value)?.[1];
    if (name.toLowerCase() === 'authorization' && bearer !== undefined) {
      return made([`bearer: "{secret.${prefix}_TOKEN}"`], [{ name: `${prefix}_TOKEN`, value: bearer }], name);
    }
    if (name.toLowerCase() !== 'authorization' && !KEY_NAME.test(name)) continue;
    const [, scheme = '', key = ''] = /^((?:[A-Za-z-]+ )?)(.*)$/.exec(value)!;
    return made(
      [`api-key: { header: ${name}, value: "${scheme}{secret.${prefix}_KEY}" }`],
      [{ name: `${prefix}_KEY`, value: key }],
      name,
    );
  }
  const parameter = query.find(([name, value]) => KEY_NAME.test(name) || looksLikeSecret(value, name));
  if (!parameter) return undefined;
  const [name, value] = parameter;
  return made(
    [`api-key: { query: ${yamlScalar(name, true)}, value: "{secret.${prefix}_KEY}" }`],
    [{ name: `${prefix}_KEY`, value }],
    undefined,
    name,
  );
}

/**
 * A request whose credentials, wherever they stand, are replaced by words, and the secrets that the words stand for: for a
 * sample that is sent as it is, and of whose keys no record may hold any.
 */
export function withoutCredentials(
  request: DraftRequest,
): Readonly<{ request: DraftRequest; secrets: readonly FoundSecret[] }> {
  const secrets: FoundSecret[] = [];
  const word = (value: string): string => {
    secrets.push({ name: `SAMPLE_KEY_${secrets.length + 1}`, value });
    return placeholder(secrets.length);
  };
  const hidden = (pairs: DraftRequest['headers'], isHeader: boolean) =>
    pairs.map(([name, value]): readonly [string, string] => {
      const isCredential =
        KEY_NAME.test(name) ||
        looksLikeSecret(value, name) ||
        (isHeader && /^(?:proxy-)?authorization$|^cookie$/i.test(name));
      const [, scheme = '', rest = ''] = /^((?:[A-Za-z-]+ )?)(.*)$/s.exec(value)!;
      return isCredential && rest !== '' ? [name, scheme + word(rest)] : [name, value];
    });
  const basic =
    request.basic === undefined
      ? []
      : [['Authorization', `Basic ${word(base64Text(new TextEncoder().encode(request.basic)))}`] as const];
  const headers = [...hidden(request.headers, true), ...basic];
  return { request: { ...request, headers, query: hidden(request.query, false), basic: undefined }, secrets };
}

const placeholder = (number: number) => `zzSAMPLEKEY${number}zz`;

/** Lines in which the words of `withoutCredentials` are placeholders, in quotes. */
export function withSecretPlaceholders(lines: readonly string[]): readonly string[] {
  return lines.map((line) => {
    const found = /^(\s*(?:"[^"]*"|'[^']*'|[^:"']+): )(.*zzSAMPLEKEY\d+zz.*)$/.exec(line);
    if (!found) return line;
    const [, head = '', value = ''] = found;
    const placeholders = value.replace(/zzSAMPLEKEY(\d+)zz/g, '{secret.SAMPLE_KEY_$1}');
    return (
      head +
      (/^["'[]/.test(value) ? placeholders.replace(/(?<=[[,] ?)(\{secret\.\w+\})/g, '"$1"') : `"${placeholders}"`)
    );
  });
}

/** A call of a chain, as lines of YAML without the dash. `target` is the path under the api's URL, or a whole URL. */
export function callLines(
  { method, query, headers, body, timeout }: DraftRequest,
  name: string,
  target: string,
  auth: DraftAuth | undefined,
  more: readonly string[] = [],
): readonly string[] {
  const parameters = query.filter(([each]) => !auth?.query.has(each));
  const named = headers.filter(([each]) => !auth?.headers.has(each));
  return [
    `call: ${yamlScalar(name)}`,
    `request: ${yamlScalar(`${method} ${target}`)}`,
    ...mapping('query', grouped(parameters)),
    ...mapping(
      'headers',
      named.map(([each, value]) => [each, yamlText(value)] as const),
    ),
    ...bodyLines(body),
    ...(timeout === undefined ? [] : [`timeout: ${timeout}`]),
    ...more,
  ];
}

/** The lines of a step as an item of a list that is indented by two blanks. */
export function stepText(lines: readonly string[]): string {
  return lines.map((line, i) => `${i === 0 ? '  - ' : '    '}${line}\n`).join('');
}

/** Parameters by name, those that come several times as a list. */
function grouped(pairs: readonly (readonly [string, string])[]): readonly (readonly [string, string])[] {
  const byName = new Map<string, string[]>();
  for (const [name, value] of pairs) byName.set(name, [...(byName.get(name) ?? []), yamlText(value, true)]);
  return [...byName].map(([name, values]) => [name, values.length === 1 ? values[0]! : `[${values.join(', ')}]`]);
}

function mapping(key: string, entries: readonly (readonly [string, string])[]): readonly string[] {
  if (entries.length === 0) return [];
  return [`${key}:`, ...entries.map(([name, value]) => `  ${yamlScalar(name)}: ${value}`)];
}

/** A text as a scalar that is read as that text: what looks like a number or `true` gets quotes, braces are doubled. */
function yamlText(text: string, inFlow = false): string {
  const literal = text.replace(/[{}]/g, '$&$&');
  const isOther = /^(?:null|~|true|false|yes|no|on|off|y|n|[-+.]?[0-9].*)$/i.test(literal);
  return isOther ? yamlQuoted(literal) : yamlScalar(literal, inFlow);
}

function bodyLines(body: DraftRequest['body']): readonly string[] {
  if (!body) return [];
  switch (body.kind) {
    case 'form':
      return mapping('form', grouped(body.fields));
    case 'text':
      return [`text: ${yamlText(body.text)}`];
    case 'file':
      return [`file: ${yamlText(body.path)}`, ...(body.type === undefined ? [] : [`type: ${yamlText(body.type)}`])];
    case 'multipart':
      return mapping(
        'multipart',
        body.fields.map((field) => [field.name, fieldText(field)] as const),
      );
    case 'json': {
      const read = readJson(body.text);
      const lines = valueLines(read.ok ? read.value : null);
      return lines.length === 1 ? [`json: ${lines[0]}`] : ['json:', ...lines.map((line) => `  ${line}`)];
    }
  }
}

function fieldText(field: DraftField): string {
  if ('text' in field) return yamlText(field.text);
  const type = field.type === undefined ? '' : `, type: ${yamlText(field.type, true)}`;
  return `{ file: ${yamlText(field.file, true)}${type} }`;
}

/** A JSON value as YAML: objects and lists in blocks, texts with their braces doubled, numbers in their source text. */
function valueLines(value: Value): readonly string[] {
  if (isList(value)) {
    if (value.length === 0) return ['[]'];
    return value.flatMap((item) => {
      const [first = '', ...rest] = valueLines(item);
      return [`- ${first}`, ...rest.map((line) => `  ${line}`)];
    });
  }
  if (isObject(value)) {
    const entries = Object.entries(value);
    if (entries.length === 0) return ['{}'];
    return entries.flatMap(([name, member]) => {
      const lines = valueLines(member);
      const isBlock = (isList(member) && member.length > 0) || (isObject(member) && Object.keys(member).length > 0);
      const key = /^[A-Za-z_][\w-]*$/.test(name) ? name : yamlQuoted(name);
      return isBlock ? [`${key}:`, ...lines.map((line) => `  ${line}`)] : [`${key}: ${lines[0]}`];
    });
  }
  if (typeof value === 'string') return [yamlText(value)];
  return [isNumber(value) ? numberText(value) : String(value)];
}
