import { readJson } from '../value/json-read.ts';
import { readXml, XmlNode } from '../value/xml.ts';
import { Bytes, type Maybe } from '../value/value.ts';
import { decodeText } from './charset.ts';
import { headerOf, type HttpResponse } from './message.ts';

/** What a body was read as. */
export type DecodedAs = 'json' | 'xml' | 'text' | 'bytes' | 'none';

export type Decoded =
  | Readonly<{ as: DecodedAs; value: Maybe; text?: string; problem?: undefined }>
  | Readonly<{ as: DecodedAs; text?: string; problem: DecodeProblem }>;

export type DecodeProblem = Readonly<{
  code: 'not-decodable' | 'unknown-charset' | 'over-limit';
  message: string;
  advice?: string;
}>;

/** `application/json; charset=utf-8` in parts; the type in lower case (RFC 9110 section 8.3.1). */
export function mediaTypeOf(header: string | undefined): Readonly<{ type: string; charset: string | undefined }> {
  const [type = '', ...parameters] = (header ?? '').split(';');
  const charset = parameters.map((each) => /^\s*charset\s*=\s*"?([^"\s]+)"?\s*$/i.exec(each)?.[1]).find(Boolean);
  return { type: type.trim().toLowerCase(), charset };
}

/** How a media type is read; a type that is not known to be text is left as bytes. */
export function decodedAs(type: string): DecodedAs {
  if (type === 'application/json' || type.endsWith('+json') || type === 'text/json') return 'json';
  if (type === 'application/xml' || type === 'text/xml' || type.endsWith('+xml')) return 'xml';
  if (type === '' || type.startsWith('text/') || TEXTUAL.has(type)) return 'text';
  return 'bytes';
}

const TEXTUAL: ReadonlySet<string> = new Set([
  'application/javascript',
  'application/x-www-form-urlencoded',
  'application/yaml',
  'application/x-ndjson',
  'application/sql',
]);

/** Decodes a body by media type and charset. An empty body is nothing. Never throws. */
export async function decodeBody(response: HttpResponse): Promise<Decoded> {
  const { body } = response;
  if (body.length === 0) return { as: 'none', value: undefined };
  const { type, charset } = mediaTypeOf(headerOf(response.headers, 'content-type'));
  const as = decodedAs(type);
  if (as === 'bytes') return { as, value: new Bytes(body) };
  const decoded = await decodeText(body, charset);
  if (decoded.problem) {
    // Without a media type nobody said that it was text.
    return type === '' ? { as: 'bytes', value: new Bytes(body) } : { as, problem: decoded.problem };
  }
  const { text } = decoded;
  if (as === 'text') return { as, value: text, text };
  if (as === 'xml') return decodeXml(text, type);
  const json = readJson(text);
  if (json.ok) return { as, value: json.value, text };
  const code = json.reason === 'too-deep' ? 'over-limit' : 'not-decodable';
  const message = `The body says that it is ${type}, and cannot be read as JSON: ${json.message}, at character ${json.offset + 1}`;
  return { as, text, problem: { code, message } };
}

function decodeXml(text: string, type: string): Decoded {
  const read = readXml(text);
  if ('document' in read) return { as: 'xml', value: new XmlNode(read.document), text };
  const message = `The body says that it is ${type}, and cannot be read as XML: ${read.message}`;
  return { as: 'xml', text, problem: { code: read.tooDeep ? 'over-limit' : 'not-decodable', message } };
}
