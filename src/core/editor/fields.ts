import { HOLDS, type Holds, type JsonSchema } from '../schema/input.ts';
import type { Around, PathKey } from './around.ts';
import type { Cursor } from './cursor.ts';

/** A key that may be written in a mapping. */
export type Field = Readonly<{ name: string; about: string | undefined; required: boolean; schema: JsonSchema }>;

/** What the schema of a file says of the place of a cursor: the keys of a mapping, the words and the sort of a value. */
export class Fields {
  private readonly defs: Readonly<Record<string, JsonSchema>>;

  constructor(private readonly root: JsonSchema) {
    this.defs = (root['$defs'] ?? {}) as Record<string, JsonSchema>;
  }

  /** The schemas of what is being written at a cursor; several where alternatives are still open. */
  at({ path, around }: Pick<Cursor, 'path' | 'around'>): readonly JsonSchema[] {
    let found = this.flat([this.root]);
    const way: PathKey[] = [];
    for (const key of path) {
      found = this.flat(this.meant(found, keysAt(around, way)).flatMap((schema) => below(schema, key)));
      way.push(key);
    }
    return this.meant(found, keysAt(around, way));
  }

  /** The keys that may be written in mappings of some schemas: while it is open which kind is meant, those that say it. */
  keysOf(schemas: readonly JsonSchema[]): readonly Field[] {
    const fields = this.allKeysOf(schemas);
    const heads = new Set(schemas.flatMap(({ title }) => (title === undefined ? [] : [String(title)])));
    if (heads.size < 2) return fields;
    return fields.filter(
      ({ name }) => heads.has(name) || schemas.every((each) => Object.hasOwn(propertiesOf(each), name)),
    );
  }

  private allKeysOf(schemas: readonly JsonSchema[]): readonly Field[] {
    const fields = new Map<string, Field>();
    for (const schema of schemas) {
      const required = new Set((schema['required'] ?? []) as readonly string[]);
      for (const [name, each] of Object.entries(propertiesOf(schema))) {
        // What a kind of step or expectation is known by tells what that is for.
        const isHead = schema['title'] === name;
        const about = String((isHead ? schema['description'] : undefined) ?? each['description'] ?? '');
        if (!fields.has(name)) fields.set(name, { name, about, required: isHead || required.has(name), schema: each });
      }
    }
    return [...fields.values()];
  }

  /** The words that a value may be. */
  wordsOf(schemas: readonly JsonSchema[]): readonly string[] {
    return schemas.flatMap((schema) => {
      if (schema['type'] === 'boolean') return ['true', 'false'];
      return ((schema['enum'] ?? []) as readonly unknown[]).map(String);
    });
  }

  /** Whether values of a schema are mappings or lists. */
  takes(schema: JsonSchema, type: 'object' | 'array'): boolean {
    return this.flat([schema]).some((each) => each['type'] === type);
  }

  /** Schemas with their references followed and their alternatives each for itself. */
  private flat(schemas: readonly JsonSchema[]): readonly JsonSchema[] {
    return schemas.flatMap((schema) => {
      const { $ref: reference, anyOf } = schema as { $ref?: string; anyOf?: readonly JsonSchema[] };
      if (reference !== undefined) return this.flat([this.defs[reference.replace('#/$defs/', '')] ?? {}]);
      // Alternatives hold what the whole holds.
      const holds = schema[HOLDS];
      const own = anyOf?.map((each) => (holds && !each[HOLDS] ? { ...each, [HOLDS]: holds } : each));
      return own ? this.flat(own) : [schema];
    });
  }

  /** Of several mappings those that know most of the keys that are written. */
  private meant(schemas: readonly JsonSchema[], keys: ReadonlySet<string>): readonly JsonSchema[] {
    if (keys.size === 0) return schemas;
    const known = (schema: JsonSchema) => {
      const properties = propertiesOf(schema);
      return [...keys].filter((key) => Object.hasOwn(properties, key)).length;
    };
    const heads = schemas.filter(({ title }) => keys.has(String(title)));
    const candidates = heads.length > 0 ? heads : schemas;
    const most = Math.max(0, ...candidates.map(known));
    return candidates.filter((schema) => known(schema) === most);
  }
}

/** What the texts at a place hold, where that is known. */
export function holdsOf(schemas: readonly JsonSchema[]): ReadonlySet<Holds> {
  return new Set(schemas.flatMap((schema) => schema[HOLDS] ?? []));
}

function propertiesOf(schema: JsonSchema): Readonly<Record<string, JsonSchema>> {
  return (schema['properties'] ?? {}) as Record<string, JsonSchema>;
}

function below(schema: JsonSchema, key: PathKey): readonly JsonSchema[] {
  const { items, additionalProperties: others } = schema as { items?: JsonSchema; additionalProperties?: unknown };
  const own = typeof key === 'string' ? propertiesOf(schema)[key] : items;
  if (own) return [own];
  if (typeof key === 'string' && typeof others === 'object' && others !== null) return [others as JsonSchema];
  // A value of any form holds what it holds at every depth.
  return schema[HOLDS] === 'placeholders' ? [{ [HOLDS]: 'placeholders' }] : [];
}

function keysAt(around: readonly Around[], path: readonly PathKey[]): ReadonlySet<string> {
  const level = around.findLast(
    (each) => each.path.length === path.length && each.path.every((key, i) => key === path[i]),
  );
  return new Set(level?.keys.keys());
}
