import { readJson } from '../value/json-read.ts';
import { writeJson } from '../value/json-write.ts';
import { indentedXml } from '../value/xml-indent.ts';
import { readCsv } from '../value/csv.ts';
import { readXml, XmlNode } from '../value/xml.ts';
import { Bytes, type Maybe, type Value } from '../value/value.ts';
import { readEvents } from './event-stream.ts';
import { decodeText, type DecodeProblem } from './charset.ts';
import { headerOf, type HttpResponse } from './message.ts';

/** What `read-as` may say. */
export const READ_AS = ['json', 'xml', 'csv', 'ndjson', 'events', 'text', 'bytes'] as const;
export type ReadAs = (typeof READ_AS)[number];

/** What a body was read as. */
export type DecodedAs = ReadAs | 'none';

export type Decoded =
  | Readonly<{ as: DecodedAs; value: Maybe; text?: string; problem?: undefined }>
  | Readonly<{ as: DecodedAs; text?: string; problem: DecodeProblem }>;

/** `application/json; charset=utf-8` in parts; the type in lower case (RFC 9110 section 8.3.1). */
export function mediaTypeOf(header: string | undefined): MediaType {
  const known = readTypes.get(header ?? '');
  if (known) return known;
  const read = readMediaType(header);
  if (readTypes.size < MAX_READ_TYPES) readTypes.set(header ?? '', read);
  return read;
}

type MediaType = Readonly<{ type: string; charset: string | undefined }>;

/** Types that were read: a server says the same one again and again. */
const readTypes = new Map<string, MediaType>();
const MAX_READ_TYPES = 100;

function readMediaType(header: string | undefined): MediaType {
  const [type = '', ...parameters] = (header ?? '').split(';');
  const charset = parameters.map((each) => /^\s*charset\s*=\s*"?([^"\s]+)"?\s*$/i.exec(each)?.[1]).find(Boolean);
  return { type: type.trim().toLowerCase(), charset };
}

/** How a media type is read; a type that is not known to be text is left as bytes. */
export function decodedAs(type: string): ReadAs {
  if (type === 'application/json' || type.endsWith('+json') || type === 'text/json') return 'json';
  if (type === 'text/csv') return 'csv';
  if (type === 'text/event-stream') return 'events';
  if (NDJSON.has(type)) return 'ndjson';
  if (isXml(type)) return 'xml';
  if (type === '' || type.startsWith('text/') || TEXTUAL.has(type)) return 'text';
  return 'bytes';
}

/** Media types of XML (RFC 7303). */
function isXml(type: string): boolean {
  return type === 'application/xml' || type === 'text/xml' || type.endsWith('+xml');
}

/** A body as people read it: JSON and XML with a line for each member and element, other texts as they are. */
export function readableText(text: string, type = ''): string {
  const as = decodedAs(type);
  if (as === 'xml') return indentedXml(text);
  const json = as === 'json' ? readJson(text) : undefined;
  return json?.ok ? writeJson(json.value, 2) : text;
}

const NDJSON: ReadonlySet<string> = new Set(['application/x-ndjson', 'application/ndjson', 'application/jsonl']);

const TEXTUAL: ReadonlySet<string> = new Set([
  'application/javascript',
  'application/x-www-form-urlencoded',
  'application/yaml',
  'application/sql',
]);

/** Decodes a body by `read-as`, else by media type, and by charset. An empty body is nothing. Never throws. */
export function decodeBody(response: HttpResponse, readAs?: ReadAs): Decoded {
  const { body } = response;
  if (body.length === 0) return { as: 'none', value: undefined };
  const { type, charset } = mediaTypeOf(headerOf(response.headers, 'content-type'));
  const as = readAs ?? decodedAs(type);
  if (as === 'bytes') return { as, value: new Bytes(body) };
  const decoded = decodeText(body, charset ?? (as === 'xml' ? declaredIn(body) : undefined));
  if (decoded.problem) {
    // Without a media type nobody said that it was text.
    const isGuess = type === '' && readAs === undefined;
    return isGuess ? { as: 'bytes', value: new Bytes(body) } : { as, problem: decoded.problem };
  }
  return decodeContent(as, decoded.text, type);
}

/** The charset that an XML document declares at its beginning (XML 1.0 section 4.3.3). */
function declaredIn(body: Uint8Array): string | undefined {
  const start = String.fromCharCode(...body.subarray(0, 200));
  return /^<\?xml[^>]*?\sencoding\s*=\s*["']([A-Za-z][\w.-]*)["']/.exec(start)?.[1];
}

/** Reads a text as what it is. `type` is named in messages. */
function decodeContent(as: Exclude<ReadAs, 'bytes'>, text: string, type = ''): Decoded {
  const what = type === '' ? 'body' : `body is declared as ${type}, and`;
  const failed = (form: string, message: string, code: DecodeProblem['code'] = 'not-decodable'): Decoded => ({
    as,
    text,
    problem: { code, message: `The ${what} cannot be read as ${form}: ${message}` },
  });
  switch (as) {
    case 'text':
      return { as, value: text, text };
    case 'json': {
      const json = readJson(text);
      if (json.ok) return { as, value: json.value, text };
      const code = json.reason === 'too-deep' ? 'over-limit' : 'not-decodable';
      return failed('JSON', `${json.message}, at character ${json.offset + 1}`, code);
    }
    case 'xml': {
      const read = readXml(text);
      if ('document' in read) return { as, value: new XmlNode(read.document), text };
      return failed('XML', read.message, read.tooDeep ? 'over-limit' : 'not-decodable');
    }
    case 'csv':
      try {
        return { as, value: readCsv(text), text };
      } catch (error) {
        return failed('CSV', (error as Error).message);
      }
    case 'ndjson':
      return decodeLines(text, failed);
    case 'events':
      return { as, value: readEvents(text), text };
  }
}

/** One JSON value a line; empty lines are passed over. */
function decodeLines(text: string, failed: (form: string, message: string) => Decoded): Decoded {
  const values: Value[] = [];
  for (const [i, line] of text.split('\n').entries()) {
    if (line.trim() === '') continue;
    const json = readJson(line);
    if (!json.ok) return failed('NDJSON', `${json.message}, in line ${i + 1} at character ${json.offset + 1}`);
    values.push(json.value);
  }
  return { as: 'ndjson', value: values, text };
}
