import { crypto } from '../../packages.ts';
import { headerOf, splitUrl, type Header, type HttpRequest, type RequestBody } from '../message.ts';

/** Parameters of a signature (RFC 9421 section 2.3), in the order in which they are written. */
type SignatureParameters = Readonly<{
  created?: number;
  expires?: number;
  nonce?: string;
  alg?: string;
  keyid?: string;
  tag?: string;
}>;

type SignatureBase =
  | Readonly<{ text: string; parameters: string }>
  /** A component that the request does not have. */
  | Readonly<{ missing: string }>;

/**
 * The text that is signed. RFC 9421 section 2.5. A component is the name of a header or a derived one (`@method`), with
 * parameters behind it as in `@query-param;name="day"`.
 */
export function signatureBase(
  request: HttpRequest,
  components: readonly string[],
  parameters: SignatureParameters,
): SignatureBase {
  const identifiers = components.map(identifierOf);
  const lines: string[] = [];
  for (const [i, component] of components.entries()) {
    const value = componentValue(component, request);
    if (value === undefined) return { missing: component };
    lines.push(`${identifiers[i]}: ${value}`);
  }
  const written = Object.entries(parameters)
    .map(([name, value]) => `;${name}=${typeof value === 'number' ? value : JSON.stringify(value)}`)
    .join('');
  const list = `(${identifiers.join(' ')})${written}`;
  return { text: [...lines, `"@signature-params": ${list}`].join('\n'), parameters: list };
}

/** `"@query-param";name="day"` of `@query-param;name="day"`; quotes around the name may be there already. */
function identifierOf(component: string): string {
  const { name, rest } = partsOf(component);
  return `"${name.toLowerCase()}"${rest}`;
}

function partsOf(component: string): { name: string; rest: string } {
  const [, name = '', rest = ''] = /^"?([^";]*)"?(.*)$/s.exec(component)!;
  return { name, rest };
}

/** RFC 9421 sections 2.1 and 2.2. */
function componentValue(component: string, { method, url, headers }: HttpRequest): string | undefined {
  const { name, rest } = partsOf(component);
  const { origin, path: whole } = splitUrl(url);
  const mark = whole.indexOf('?');
  const path = mark < 0 ? whole : whole.slice(0, mark);
  const query = mark < 0 ? '' : whole.slice(mark + 1);
  switch (name.toLowerCase()) {
    case '@method':
      return method;
    case '@target-uri':
      return origin + whole;
    case '@authority':
      return new URL(origin).host;
    case '@scheme':
      return new URL(origin).protocol.slice(0, -1);
    case '@request-target':
      return whole;
    case '@path':
      return path;
    case '@query':
      return `?${query}`;
    case '@query-param':
      return queryParameter(query, /;name="((?:[^"\\]|\\.)*)"/.exec(rest)?.[1] ?? '');
    default:
      return fieldValue(name, rest, headers);
  }
}

/** RFC 9421 section 2.2.8: decoded, and encoded again in one way. */
function queryParameter(query: string, wanted: string): string | undefined {
  for (const [name, value] of new URLSearchParams(query)) {
    if (encodeURIComponent(name) === wanted || name === wanted) return encodeURIComponent(value).replaceAll("'", '%27');
  }
  return undefined;
}

/** Lines of a field joined by `, `; with `;bs` each of them as bytes, with `;key` one member of a dictionary. */
function fieldValue(name: string, rest: string, headers: readonly Header[]): string | undefined {
  const lower = name.toLowerCase();
  const values = headers.filter(([each]) => each.toLowerCase() === lower).map(([, value]) => value.trim());
  if (values.length === 0) return undefined;
  if (/;bs\b/.test(rest)) return values.map((value) => `:${btoa(value)}:`).join(', ');
  const joined = headerOf(headers, name)!
    .trim()
    .replace(/\s*\r?\n\s*/g, ' ');
  const key = /;key="([^"]*)"/.exec(rest)?.[1];
  if (key === undefined) return joined;
  return joined
    .split(/,\s*/)
    .map((member) => /^([a-z*][a-z0-9_\-.*]*)(?:=(.*))?$/.exec(member.trim()))
    .findLast((member) => member?.[1] === key)?.[2];
}

/** The value of `Content-Digest` (RFC 9530 section 2). */
export function contentDigest(body: RequestBody): string {
  const hash = crypto().createHash('sha256');
  if (typeof body === 'string' || body instanceof Uint8Array) hash.update(body);
  else for (const piece of body.pieces()) hash.update(piece);
  return `sha-256=:${hash.digest('base64')}:`;
}
