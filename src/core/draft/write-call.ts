import { encodeUnreserved } from '../value/percent.ts';
import { numberText, isNumber } from '../value/numbers.ts';
import { isList, isObject, type Value } from '../value/value.ts';
import { yamlQuoted, yamlScalar } from '../yaml/quoting.ts';
import { mark, soleMark, withPlaceholders } from './marks.ts';
import type { DraftBody, DraftField, DraftRequest } from './request.ts';
import type { Credential, TakenRequest } from './take.ts';

/** What is sent with each request of the API: names of credentials, and headers, in lower case. */
export type HowSent = Readonly<{ credentials: ReadonlySet<string>; headers: ReadonlyMap<string, string> }>;

/** The lines of an API that say how requests authenticate, and what headers they share. */
export function authLines(
  basic: TakenRequest['basic'],
  credentials: readonly Credential[],
  headers: DraftRequest['headers'],
): readonly string[] {
  return [
    ...authOf([...(basic ? [basicLine(basic)] : []), ...credentials.map(schemeLine)]),
    ...mapping(
      'headers',
      headers.map(([name, value]) => [name, yamlText(value)] as const),
    ),
  ];
}

/** The lines of `auth` for schemes that go together. */
export function authOf(schemes: readonly string[]): readonly string[] {
  if (schemes.length > 1) return ['auth:', ...schemes.map((each) => `  - ${each}`)];
  return schemes.map((each) => `auth: { ${each} }`);
}

function basicLine({ user, password }: NonNullable<TakenRequest['basic']>): string {
  return `basic: { user: ${yamlText(user, true)}, password: ${yamlText(password, true)} }`;
}

function schemeLine({ place, name, value }: Credential): string {
  const bearer = name.toLowerCase() === 'authorization' ? /^Bearer (.*)$/i.exec(value)?.[1] : undefined;
  if (bearer !== undefined) return `bearer: ${yamlText(bearer, true)}`;
  return `api-key: { ${place}: ${yamlText(name, true)}, value: ${yamlText(value, true)} }`;
}

/** What a call says beside its request. */
type Beside = Readonly<{
  api: string | undefined;
  keeps: readonly (readonly [name: string, expression: string])[];
  /** The status that it was answered with. */
  status: number | undefined;
  /** Further lines, before what it keeps. */
  lines?: readonly string[];
  /** Whether it goes to an API, to which alone `auth` sends credentials. */
  hasApi: boolean;
}>;

/** A call of a chain, as lines of YAML without the dash. */
export function callLines(taken: TakenRequest, name: string, how: HowSent, beside: Beside): readonly string[] {
  const { request, credentials, json } = taken;
  const own = credentials.filter((each) => !how.credentials.has(each.name.toLowerCase()));
  const ownQuery = new Set(own.flatMap((each) => (each.place === 'query' ? [each.name] : [])));
  const ofApi = new Set(
    credentials.flatMap((each) => (each.place === 'query' && !ownQuery.has(each.name) ? [each.name] : [])),
  );
  const target = targetOf(request, ofApi);
  const headers = [
    ...request.headers.filter(([each, value]) => how.headers.get(each.toLowerCase()) !== value),
    ...own.flatMap((each) =>
      each.place === 'header' && !(beside.hasApi && isCallAuth(each)) ? [[each.name, each.value] as const] : [],
    ),
    ...(taken.basic && !beside.hasApi ? [['Authorization', basicHeader(taken.basic)] as const] : []),
  ];
  const { status } = beside;
  return [
    `call: ${yamlScalar(name)}`,
    ...(beside.api === undefined ? [] : [`api: ${yamlScalar(beside.api)}`]),
    `request: ${yamlScalar(`${request.method} ${target.text}`)}`,
    ...mapping('query', target.query),
    ...mapping(
      'headers',
      headers.map(([each, value]) => [each, yamlText(value)] as const),
    ),
    ...(beside.hasApi ? callAuthLines(taken.basic, own, how) : []),
    ...bodyLines(request.body, json),
    ...(request.timeout === undefined ? [] : [`timeout: ${request.timeout}`]),
    ...(status === undefined ? [] : ['expect:', `  - status == ${status}`]),
    ...(beside.lines ?? []),
    ...mapping(
      'keep',
      beside.keeps.map(([each, expression]) => [each, yamlScalar(expression)] as const),
    ),
  ];
}

/** Basic authentication as a header (RFC 7617). */
function basicHeader({ user, password }: NonNullable<TakenRequest['basic']>): string {
  const secret = soleMark(password);
  const sum = `'${user.replace(/['\\]/g, '\\$&')}:' + ${secret ?? "''"}`;
  return `Basic ${mark(`base64(${sum})`)}`;
}

/** A credential in `Authorization` that is a call's own: headers of that name belong to `auth`. */
function isCallAuth({ place, name }: Credential): boolean {
  return place === 'header' && name.toLowerCase() === 'authorization';
}

function callAuthLines(basic: TakenRequest['basic'], own: readonly Credential[], how: HowSent): readonly string[] {
  const isOwnBasic = basic && !how.credentials.has('authorization');
  const schemes = [...(isOwnBasic ? [basicLine(basic)] : []), ...own.filter(isCallAuth).map(schemeLine)];
  return schemes[0] === undefined ? [] : [`auth: { ${schemes[0]} }`];
}

type Pairs = readonly (readonly [string, string])[];

/** The target: its query as `query:` where that sends the same, else as the sample writes it. */
function targetOf(
  { url, query, rawQuery }: DraftRequest,
  ofApi: ReadonlySet<string>,
): Readonly<{ text: string; query: Pairs }> {
  const path = withPlaceholders(url, (text) => text.replace(/[{}]/g, (sign) => encodeURIComponent(sign)));
  const raw = rawQuery.split('&').filter((pair) => pair !== '');
  const parameters = query
    .map(([name, value], i) => ({ name, value, raw: raw[i] ?? '' }))
    .filter(({ name }) => !ofApi.has(name));
  if (parameters.length === 0) return { text: path, query: [] };
  const pairs = grouped(parameters.map(({ name, value }) => [name, value] as const));
  const isPlain = parameters.every(({ name, value, raw: written }) => isEncodedAlike(name, value, written));
  if (isPlain && isInOrder(parameters.map(({ name }) => name))) return { text: path, query: pairs };
  const written = parameters.map(({ value, raw: each }) => {
    const isMarked = withPlaceholders(value, () => '') !== '';
    return isMarked
      ? `${each.split('=', 1)[0]}=${withPlaceholders(value, encodeUnreserved)}`
      : each.replace(/[{}]/g, (sign) => encodeURIComponent(sign));
  });
  return { text: `${path}?${written.join('&')}`, query: [] };
}

/** Whether a parameter is written as `query:` would send it. */
function isEncodedAlike(name: string, value: string, raw: string): boolean {
  if (withPlaceholders(value, () => '') !== '') return encodeUnreserved(name) === raw.split('=', 1)[0];
  return `${encodeUnreserved(name)}=${encodeUnreserved(value)}` === raw;
}

/** Whether parameters of one name stand together, so that a list of them is sent in the same order. */
function isInOrder(names: readonly string[]): boolean {
  return names.every((name, i) => i === 0 || names[i - 1] === name || !names.slice(0, i).includes(name));
}

/** The lines of a step as an item of a list that is indented by two blanks. */
export function stepText(lines: readonly string[]): string {
  return lines.map((line, i) => `${i === 0 ? '  - ' : '    '}${line}\n`).join('');
}

/** Parameters by name, those that come several times as a list. */
function grouped(pairs: Pairs): Pairs {
  const byName = new Map<string, string[]>();
  for (const [name, value] of pairs) byName.set(name, [...(byName.get(name) ?? []), yamlText(value, true)]);
  return [...byName].map(([name, values]) => [name, values.length === 1 ? values[0]! : `[${values.join(', ')}]`]);
}

function mapping(key: string, entries: Pairs): readonly string[] {
  if (entries.length === 0) return [];
  return [`${key}:`, ...entries.map(([name, value]) => `  ${yamlKey(name)}: ${value}`)];
}

/** What YAML would read as something else than a text. */
const OTHER = /^(?:null|~|true|false|yes|no|on|off|y|n|[-+.]?[0-9].*)$/i;

/** The same of a key: `n` and `yes` are texts in YAML 1.2. */
const OTHER_KEY = /^(?:null|~|true|false|[-+.]?[0-9].*)$/i;

function yamlKey(name: string): string {
  return OTHER_KEY.test(name) ? yamlQuoted(name) : yamlScalar(name, true);
}

/** A text as a scalar that is read as that text: what looks like a number or `true` gets quotes, braces are doubled. */
function yamlText(text: string, inFlow = false): string {
  const written = withPlaceholders(text, (literal) => literal.replace(/[{}]/g, '$&$&'));
  return written !== text || OTHER.test(written) ? yamlQuoted(written) : yamlScalar(written, inFlow);
}

/** Types that bodies have by themselves. */
const TYPES: Readonly<Record<string, string>> = {
  json: 'application/json',
  text: 'text/plain',
  form: 'application/x-www-form-urlencoded',
};

function bodyLines(body: DraftBody | undefined, json: Value | undefined): readonly string[] {
  if (!body) return [];
  switch (body.kind) {
    case 'form':
      return isInOrder(body.fields.map(([name]) => name))
        ? [...mapping('form', grouped(body.fields)), ...typeLine('form', body.type)]
        : [
            `text: ${yamlText(new URLSearchParams(body.fields.map(([name, value]) => [name, value])).toString())}`,
            'type: application/x-www-form-urlencoded',
          ];
    case 'text':
      return [`text: ${yamlText(body.text)}`, ...typeLine('text', body.type)];
    case 'file':
      return [`file: ${yamlText(body.path)}`, ...(body.type === undefined ? [] : [`type: ${yamlText(body.type)}`])];
    case 'multipart':
      return mapping(
        'multipart',
        body.fields.map((field) => [field.name, fieldText(field)] as const),
      );
    case 'json': {
      const value = json ?? null;
      const lines = valueLines(value);
      return [
        ...(isBlock(value) ? ['json:', ...lines.map((line) => `  ${line}`)] : [`json: ${lines[0]}`]),
        ...typeLine('json', body.type),
      ];
    }
  }
}

function typeLine(kind: 'json' | 'text' | 'form', type: string | undefined): readonly string[] {
  return type === undefined || type.toLowerCase() === TYPES[kind] ? [] : [`type: ${yamlText(type)}`];
}

function fieldText(field: DraftField): string {
  if ('text' in field) return yamlText(field.text);
  const type = field.type === undefined ? '' : `, type: ${yamlText(field.type, true)}`;
  return `{ file: ${yamlText(field.file, true)}${type} }`;
}

/** Whether a value takes lines of its own below its key. */
function isBlock(value: Value): boolean {
  return (isList(value) && value.length > 0) || (isObject(value) && Object.keys(value).length > 0);
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
      const key = /^[A-Za-z_][\w-]*$/.test(name) && !OTHER_KEY.test(name) ? name : yamlQuoted(name);
      return isBlock(member) ? [`${key}:`, ...lines.map((line) => `  ${line}`)] : [`${key}: ${lines[0]}`];
    });
  }
  if (typeof value === 'string') return [soleMark(value) === undefined ? yamlText(value) : `"{${soleMark(value)!}}"`];
  return [isNumber(value) ? numberText(value) : String(value)];
}
