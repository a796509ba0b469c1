import { pointerKeys } from '../value/json-pointer.ts';
import { counted, cutAt, showValue } from '../value/show.ts';
import { utf8Text } from '../value/utf8.ts';
import { linearPatterns } from './linear-pattern.ts';
import { readStrictly, type SchemaFault } from './strict-schema.ts';
import type { Code } from '../diagnostics/catalogue.ts';
import { readJson } from '../value/json-read.ts';
import { toPlain } from '../value/plain.ts';
import { memberOf, type Maybe, type Value } from '../value/value.ts';
import type { FileRead } from '../expression/host.ts';
import { jsonSchema } from '../packages.ts';
import { folderOf, joined } from '../value/file-names.ts';

/** A place where a value does not fit a schema. */
export type Misfit = Readonly<{
  /** RFC 6901 pointers: into the value, and into the schema. */
  pointer: string;
  schemaPointer: string;
  message: string;
}>;

type CompiledSchema = (value: Value) => readonly Misfit[];
type SchemaProblem = Readonly<{ code: Code; message: string; advice?: string }>;
/** How values are checked, with the patterns that are not; or why the schema cannot be used. */
type Compiled =
  Readonly<{ misfits: CompiledSchema; unchecked: readonly SchemaFault[] }> | Readonly<{ problem: SchemaProblem }>;

type ReadFile = (path: string) => FileRead;

/** Files that schemas refer to, at most. */
const MAX_REFERENCES = 100;

/**
 * JSON Schemas (2020-12), compiled when first needed and kept. A reference to another file is read beside the schema;
 * nothing is ever fetched.
 */
export class Schemas {
  private readonly known = new Map<string, Compiled>();
  constructor(private readonly readFile: ReadFile) {}

  ofFile(path: string): Compiled {
    let compiled = this.known.get(path);
    if (!compiled) this.known.set(path, (compiled = this.read(path)));
    return compiled;
  }

  ofValue(schema: Value, folder = ''): Compiled {
    const key = JSON.stringify(toPlain(schema));
    let compiled = this.known.get(key);
    if (!compiled) this.known.set(key, (compiled = compile(schema, folder, this.readFile)));
    return compiled;
  }

  private read(path: string): Compiled {
    const schema = readSchema(path, this.readFile);
    return 'problem' in schema ? schema : compile(schema.value, folderOf(path), this.readFile);
  }
}

function readSchema(
  path: string,
  readFile: ReadFile,
): Readonly<{ value: Value }> | Readonly<{ problem: SchemaProblem }> {
  const file = readFile(path);
  if (!('bytes' in file)) {
    return {
      problem: {
        code: file.code ?? 'file-not-found',
        message: file.message,
        ...(file.advice ? { advice: file.advice } : {}),
      },
    };
  }
  const text = utf8Text(file.bytes);
  if (text === undefined) return { problem: { code: 'not-utf8', message: `${path} is not UTF-8` } };
  const json = readJson(text);
  if (json.ok) return { value: json.value };
  const message = `${path} is not JSON: ${json.message}, at character ${json.offset + 1}`;
  return { problem: { code: 'invalid-schema', message } };
}

function validator() {
  return jsonSchema().createValidator({
    allErrors: true,
    strict: false,
    verbose: false,
    // A member named toString is there only where the data has it.
    ownProperties: true,
    logger: false,
    code: { regExp: linearPatterns },
  });
}

/** A schema that somebody else wrote, in plain JSON and complete in itself: what is not known in it is an annotation. */
export function compilePlain(
  schema: unknown,
): Readonly<{ misfits(value: unknown): readonly Misfit[] }> | Readonly<{ message: string }> {
  try {
    const validate = validator().compile(schema as object);
    return { misfits: (value) => (validate(value) ? [] : (validate.errors ?? []).map((error) => misfitOf(error))) };
  } catch (error) {
    return { message: (error as Error).message.split('\n')[0]! };
  }
}

function compile(schema: Value, folder: string, readFile: ReadFile): Compiled {
  if (typeof schema !== 'boolean' && (typeof schema !== 'object' || schema === null || Array.isArray(schema))) {
    return bad('A JSON Schema is an object, true or false');
  }
  const ajv = validator();
  const formats = new Set(Object.keys(ajv.formats));
  const unchecked: SchemaFault[] = [];
  const strictly = (each: Value, file?: string): Compiled | undefined => {
    const { faults, unchecked: more } = readStrictly(each, formats);
    unchecked.push(...more);
    return faults.length > 0 ? faulty(faults, file) : undefined;
  };
  const fault = strictly(schema);
  if (fault) return fault;
  for (let references = 0; references <= MAX_REFERENCES; references++) {
    try {
      const validate = ajv.compile(toPlain(schema) as object);
      return {
        unchecked,
        misfits: (value) => {
          if (validate(toPlain(value))) return [];
          return (validate.errors ?? []).map((error) => misfitOf(error));
        },
      };
    } catch (error) {
      const { missingSchema, message } = error as Error & { missingSchema?: string };
      if (missingSchema === undefined) return bad(`This is not a valid schema: ${message.split('\n')[0]}`);
      if (/^[a-z][a-z0-9+.-]*:/i.test(missingSchema)) {
        return bad(
          `The schema refers to ${missingSchema}, and references to the network are not followed`,
          'Put it into a file next to the schema.',
        );
      }
      const referred = readSchema(joined(folder, missingSchema), readFile);
      if ('problem' in referred) return referred;
      const inside = strictly(referred.value, missingSchema);
      if (inside) return inside;
      ajv.addSchema(toPlain(referred.value) as object, missingSchema);
    }
  }
  return bad(`The schema refers to more than ${MAX_REFERENCES} files`);
}

function faulty([first, ...more]: readonly SchemaFault[], file = ''): Compiled {
  const others = more.length === 0 ? '' : `; ${counted(more.length, 'more mistake')}`;
  return bad(`${first!.message} (${file}#${first!.pointer}${others})`, first!.advice);
}

function bad(message: string, advice?: string): Compiled {
  return { problem: { code: 'invalid-schema', message, ...(advice === undefined ? {} : { advice }) } };
}

type AjvError = Readonly<{
  instancePath: string;
  schemaPath: string;
  keyword: string;
  message?: string;
  params: Record<string, unknown>;
}>;

function misfitOf({ instancePath, schemaPath, keyword, message, params }: AjvError): Misfit {
  return { pointer: instancePath, schemaPointer: schemaPath, message: wordsOf(keyword, params) ?? message ?? keyword };
}

/** What the validator says in few words, made plain where it names a member or a value. */
function wordsOf(keyword: string, params: Record<string, unknown>): string | undefined {
  switch (keyword) {
    case 'required':
      return `must have the member "${String(params['missingProperty'])}"`;
    case 'additionalProperties':
      return `must not have the member "${String(params['additionalProperty'])}"`;
    case 'enum':
      return `must be one of ${cutAt(JSON.stringify(params['allowedValues']).slice(1, -1), 200)}`;
    case 'const':
      return `must be ${cutAt(JSON.stringify(params['allowedValue']), 200)}`;
    default:
      return undefined;
  }
}

/** What is wrong in words, with what was found where that says more. */
export function misfitWords({ message }: Pick<Misfit, 'message'>, found: Maybe): string {
  return /^must( not)? have the member/.test(message) ? message : `${message}, not ${showValue(found, 60)}`;
}

/** The keys of a pointer, as they stand in a value: a number where the value there is a list. */
export function keysOfPointer(pointer: string, value: Value): readonly (string | number)[] {
  const keys: (string | number)[] = [];
  let at: Value | undefined = value;
  for (const name of pointerKeys(pointer)) {
    const isIndex: boolean = Array.isArray(at);
    keys.push(isIndex ? Number(name) : name);
    at = isIndex ? (at as readonly Value[])[Number(name)] : memberOf(at, name);
  }
  return keys;
}
