import { NAMED, ONE, SEVERAL } from '../schema/strict-schema.ts';
import { below, DescriptionFault, type Documents, type Placed } from './documents.ts';
import { membersOf, plainList, plainObject, type Plain, type PlainObject } from './plain.ts';

/** Which way a body goes: members that are only read are not sent, those that are only written do not come. */
export type Side = 'request' | 'response';

/** A schema with all that it refers to, as one schema of JSON Schema 2020-12. */
type ClosedSchema = Readonly<{
  schema: Plain;
  /** Where each part of it stands in the description, by its name under `$defs`. */
  places: ReadonlyMap<string, Placed>;
}>;

/** What says nothing about a value, or is written otherwise now. */
const DROPPED = new Set(['example', 'examples', 'xml', 'externalDocs', 'discriminator', 'nullable', '$id', '$schema']);

/**
 * Collects a schema and what it refers to, each part once, so that nothing else of a large description is compiled. The
 * dialect of OpenAPI 3.0 becomes that of 2020-12 (`nullable`, `exclusiveMinimum: true`). Throws `DescriptionFault`.
 */
export function closedSchema(from: Placed, documents: Documents, side: Side, isOld: boolean): ClosedSchema {
  return new Closing(documents, side, isOld).close(from);
}

/** Parts of one schema and levels of it: aliases of YAML can make a small file stand for more than memory holds. */
const MAX_PARTS = 200_000;
const MAX_LEVELS = 400;

class Closing {
  private parts = 0;
  private level = 0;
  private readonly definitions: Record<string, Plain> = {};
  private readonly places = new Map<string, Placed>();
  private readonly names = new Map<string, string>();

  constructor(
    private readonly documents: Documents,
    private readonly side: Side,
    private readonly isOld: boolean,
  ) {}

  close(from: Placed): ClosedSchema {
    const name = this.definition(from);
    return { schema: { $ref: `#/$defs/${name}`, $defs: this.definitions }, places: this.places };
  }

  private definition(at: Placed): string {
    const key = `${at.file}#${at.pointer}`;
    const known = this.names.get(key);
    if (known !== undefined) return known;
    const name = `d${this.names.size}`;
    this.names.set(key, name);
    this.places.set(name, at);
    this.definitions[name] = this.converted(at);
    return name;
  }

  private converted(at: Placed): Plain {
    if (++this.parts > MAX_PARTS || this.level > MAX_LEVELS)
      throw new DescriptionFault(at, 'This schema is too large, or nests too deep');
    this.level++;
    try {
      return this.convertedPart(at);
    } finally {
      this.level--;
    }
  }

  private convertedPart(at: Placed): Plain {
    const own = plainObject(at.value);
    if (!own) return typeof at.value === 'boolean' ? at.value : {};
    const reference = own['$ref'];
    const referred: PlainObject =
      typeof reference === 'string' ? { $ref: `#/$defs/${this.definition(this.documents.target(reference, at))}` } : {};
    // In 3.0 what stands beside a reference is ignored.
    if (this.isOld && typeof reference === 'string') return referred;
    const members = membersOf(own).flatMap(([name, value]): readonly (readonly [string, Plain])[] =>
      name === '$ref' || DROPPED.has(name) || name.startsWith('x-')
        ? []
        : [[name, this.keyword(name, below(at, [name], value))]],
    );
    return this.modern({ ...Object.fromEntries(members), ...referred }, own, at);
  }

  private keyword(name: string, at: Placed): Plain {
    const inner = (key: string | number, value: Plain) => this.converted(below(at, [key], value));
    if (ONE.includes(name)) return this.converted(at);
    if (SEVERAL.includes(name)) return plainList(at.value).map((each, i) => inner(i, each));
    if (NAMED.includes(name))
      return Object.fromEntries(membersOf(at.value).map(([key, each]) => [key, inner(key, each)]));
    return at.value;
  }

  private modern(schema: PlainObject, own: PlainObject, at: Placed): PlainObject {
    const required = plainList(schema['required']);
    const needed = required.filter((name) => !this.isOfOtherSide(String(name), own, at));
    const result: Record<string, Plain> = { ...schema };
    if (needed.length < required.length) result['required'] = needed;
    if (!this.isOld) return result;
    for (const [bound, exclusive] of [
      ['minimum', 'exclusiveMinimum'],
      ['maximum', 'exclusiveMaximum'],
    ] as const) {
      if (typeof result[exclusive] !== 'boolean') continue;
      if (result[exclusive]) {
        result[exclusive] = result[bound];
        delete result[bound];
      } else delete result[exclusive];
    }
    return own['nullable'] === true ? withNull(result) : result;
  }

  private isOfOtherSide(name: string, own: PlainObject, at: Placed): boolean {
    const value = plainObject(own['properties'])?.[name];
    if (value === undefined) return false;
    const member = plainObject(this.documents.followed(below(at, ['properties', name], value)).value);
    return member?.[this.side === 'request' ? 'readOnly' : 'writeOnly'] === true;
  }
}

function withNull(schema: Record<string, Plain>): PlainObject {
  const { type, enum: values } = schema;
  if (typeof type !== 'string') return schema;
  const choices = values === undefined ? {} : { enum: [...plainList(values), null] };
  return { ...schema, type: [type, 'null'], ...choices };
}
