import { looksLikeSecret } from '../chain/looks-like-secret.ts';
import { readJson } from '../value/json-read.ts';
import { numberText, isNumber } from '../value/numbers.ts';
import { isList, isObject, type Value } from '../value/value.ts';
import { yamlQuoted, yamlScalar } from '../yaml/quoting.ts';
import type { DraftRequest } from './request.ts';

/** A secret that was found in a sample: its name in `secrets.env`, and its value. */
export type FoundSecret = Readonly<{ name: string; value: string }>;

/** How a request authenticates, with secrets in place of values, as lines under `auth:`. */
export type DraftAuth = Readonly<{
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
export function yamlText(text: string, inFlow = false): string {
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
    case 'json': {
      const read = readJson(body.text);
      const lines = valueLines(read.ok ? read.value : null);
      return lines.length === 1 ? [`json: ${lines[0]}`] : ['json:', ...lines.map((line) => `  ${line}`)];
    }
  }
}

/** A JSON value as YAML: objects and lists in blocks, texts with their braces doubled, numbers in their source text. */
export function valueLines(value: Value): readonly string[] {
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
