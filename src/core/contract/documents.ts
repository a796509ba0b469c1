import type { FileRead } from '../expression/host.ts';
import { jsYaml } from '../packages.ts';
import { percentDecoded } from '../value/percent.ts';
import { folderOf, joined } from '../value/file-names.ts';
import { utf8Text } from '../value/utf8.ts';
import { spanAt } from '../value/json-spans.ts';
import { lineOfYaml } from '../yaml/place.ts';
import { plainObject, pointerKeys, type Plain } from './plain.ts';

/** A place in a description: a file, and a JSON Pointer in it. */
export type PlaceInFile = Readonly<{ file: string; pointer: string }>;

/** A value of a description, and where it stands once references are followed. */
export type Placed = PlaceInFile & Readonly<{ value: Plain }>;

/** What is wrong with a description, or a part of it: that part is left out. */
export class DescriptionFault extends Error {
  constructor(
    readonly at: PlaceInFile,
    message: string,
    readonly advice?: string,
  ) {
    super(message);
  }
}

type Document = Readonly<{ text: string; value: Plain; isJson: boolean }>;

/** References that lead to another reference, at most. */
const MAX_HOPS = 50;

/** The files of a description, each read once when it is first referred to. Nothing is ever fetched. */
export class Documents {
  private readonly known = new Map<string, Document>();

  constructor(private readonly readFile: (path: string) => FileRead) {}

  /** The whole of a file. Throws `DescriptionFault`. */
  root(file: string): Placed {
    return { file, pointer: '', value: this.document(file).value };
  }

  /** A value, with references at it followed to what they lead to. Throws `DescriptionFault`. */
  followed(from: Placed): Placed {
    let at = from;
    for (let hops = 0; hops <= MAX_HOPS; hops++) {
      const reference = plainObject(at.value)?.['$ref'];
      if (typeof reference !== 'string') return at;
      at = this.target(reference, at);
    }
    throw new DescriptionFault(from, 'This reference leads back to itself');
  }

  /** What a reference names, seen from where it stands. Throws `DescriptionFault`. */
  target(reference: string, from: PlaceInFile): Placed {
    const [name = '', fragment = ''] = splitReference(reference);
    if (/^[a-z][a-z0-9+.-]*:|^\/\//i.test(name)) {
      const message = `${reference} is a reference to the network, which is not followed`;
      throw new DescriptionFault(from, message, 'Put the file next to the description, and refer to it by its name.');
    }
    const file = name === '' ? from.file : normalized(joined(folderOf(from.file), percentDecoded(name)));
    const pointer = percentDecoded(fragment);
    let value = this.document(file, from).value;
    for (const key of pointerKeys(pointer)) {
      const isThere: boolean = typeof value === 'object' && value !== null && Object.hasOwn(value, key);
      if (!isThere) throw new DescriptionFault(from, `${reference} refers to nothing: ${file} has no "${key}" there`);
      value = (value as Readonly<Record<string, unknown>>)[key];
    }
    return { file, pointer, value };
  }

  /** The line of a place, counted from 1; found by reading the file again, since few places are ever shown. */
  lineOf({ file, pointer }: PlaceInFile): number | undefined {
    const document = this.known.get(file);
    if (!document) return undefined;
    const keys = pointerKeys(pointer);
    if (!document.isJson) return lineOfYaml(document.text, keys);
    const numbered = keys.map((key, i) => this.indexAt(document.value, keys.slice(0, i), key));
    const span = spanAt(document.text, numbered);
    return span && document.text.slice(0, span[0]).split('\n').length;
  }

  private indexAt(value: Plain, above: readonly string[], key: string): string | number {
    let at = value;
    for (const each of above) at = (at as Record<string, unknown> | undefined)?.[each];
    return Array.isArray(at) ? Number(key) : key;
  }

  private document(file: string, from: PlaceInFile = { file, pointer: '' }): Document {
    let document = this.known.get(file);
    if (!document) this.known.set(file, (document = this.read(file, from)));
    return document;
  }

  private read(file: string, from: PlaceInFile): Document {
    const read = this.readFile(file);
    if (!('bytes' in read)) throw new DescriptionFault(from, read.message, read.advice);
    const text = utf8Text(read.bytes);
    if (text === undefined) throw new DescriptionFault(from, `${file} is not UTF-8`);
    const isJson = /^\ufeff?\s*[{[]/.test(text);
    try {
      return { text, isJson, value: isJson ? (JSON.parse(text.replace(/^\ufeff/, '')) as Plain) : yamlOf(text) };
    } catch (error) {
      const { message, mark } = error as Error & { mark?: { line: number; column: number }; reason?: string };
      const why = (error as { reason?: string }).reason ?? message.split('\n')[0]!;
      const line = mark ? `, at line ${mark.line + 1}, column ${mark.column + 1}` : '';
      throw new DescriptionFault(from, `${file} cannot be read as ${isJson ? 'JSON' : 'YAML'}: ${why}${line}`);
    }
  }
}

/** Dates stay texts: `example: 2026-05-23` is what an API sends. */
function yamlOf(text: string): Plain {
  const { load, CORE_SCHEMA } = jsYaml();
  return load(text, { schema: CORE_SCHEMA, json: true });
}

/** A path without `.` and what `..` takes back, so that a file has one name. */
function normalized(path: string): string {
  const parts: string[] = [];
  for (const part of path.split('/')) {
    if (part === '..' && parts.length > 0 && parts.at(-1) !== '..' && parts.at(-1) !== '') parts.pop();
    else if (part !== '.') parts.push(part);
  }
  return parts.join('/');
}

function splitReference(reference: string): readonly [name: string, fragment: string] {
  const at = reference.indexOf('#');
  return at < 0 ? [reference, ''] : [reference.slice(0, at), reference.slice(at + 1)];
}
