import type { FileRead } from '../expression/host.ts';
import { jsYaml } from '../packages.ts';
import { percentDecoded } from '../value/percent.ts';
import { folderOf, joined } from '../value/file-names.ts';
import { utf8Text } from '../value/utf8.ts';
import { spanAt } from '../value/json-spans.ts';
import { yamlLines } from '../yaml/place.ts';
import { plainObject, type Plain } from './plain.ts';
import { pointerKeys, pointerPart } from '../value/json-pointer.ts';

/** A place in a description: a file, and a JSON Pointer in it. */
export type PlaceInFile = Readonly<{ file: string; pointer: string }>;

/** A value of a description, and where it stands once references are followed. */
export type Placed = PlaceInFile & Readonly<{ value: Plain }>;

/** What stands below a value, at keys that lead there. */
export function below(of: PlaceInFile, keys: readonly (string | number)[], value: Plain): Placed {
  return { file: of.file, pointer: of.pointer + keys.map(pointerPart).join(''), value };
}

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

/** Gives the line of the member that keys lead to. */
type Lines = (keys: readonly string[]) => number | undefined;

/** References that lead to another reference, at most. */
const MAX_HOPS = 50;

/** The files of a description, each read once when it is first referred to. Nothing is ever fetched. */
export class Documents {
  private readonly known = new Map<string, Document>();
  private readonly finders = new Map<string, Lines>();
  private readonly lines = new Map<string, number | undefined>();

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

  /** The line of a place, counted from 1; a file is read again for it once, when the first place in it is shown. */
  lineOf({ file, pointer }: PlaceInFile): number | undefined {
    const key = `${file}#${pointer}`;
    if (!this.lines.has(key)) this.lines.set(key, this.linesIn(file)?.(pointerKeys(pointer)));
    return this.lines.get(key);
  }

  private linesIn(file: string): Lines | undefined {
    const document = this.known.get(file);
    if (!document) return undefined;
    let finder = this.finders.get(file);
    if (!finder) {
      finder = document.isJson ? (keys) => lineInJson(document, keys) : yamlLines(document.text);
      this.finders.set(file, finder);
    }
    return finder;
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

function lineInJson({ text, value }: Document, keys: readonly string[]): number | undefined {
  let at = value;
  const numbered = keys.map((key) => {
    const isList = Array.isArray(at);
    at = (at as Readonly<Record<string, unknown>> | undefined)?.[key];
    return isList ? Number(key) : key;
  });
  const span = spanAt(text, numbered);
  return span && text.slice(0, span[0]).split('\n').length;
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
