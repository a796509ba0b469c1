import type { Description } from './description.ts';
import { below, type Placed } from './documents.ts';
import { membersOf, plainList, plainObject, type PlainObject } from './plain.ts';

/** What a schema says of a value at a path: the schemas that may hold there; none where anything may stand. */
export type Shapes = readonly Placed[];

/** What stands below shapes at a member; `undefined` where no shape can have it, with what they have instead. */
type Below = Readonly<{ shapes: Shapes | undefined; known: readonly string[] }>;

/** Schemas go into each other; a description that goes in circles is left at this depth. */
const MAX_DEPTH = 30;

/** Looks into the schemas of a description, as far as they say what can be there. */
export class Shaper {
  constructor(private readonly description: Description) {}

  /** The members of shapes by name. An object that lists its members, and does not speak of others, has no others. */
  member(shapes: Shapes, name: string): Below {
    const all = this.parts(shapes);
    if (all.length === 0) return { shapes: [], known: [] };
    const known = new Set<string>();
    const found: Placed[] = [];
    let isOpen = false;
    for (const shape of all) {
      const own = plainObject(shape.value) ?? {};
      for (const [each] of membersOf(own['properties'])) known.add(each);
      const value = plainObject(own['properties'])?.[name];
      if (value !== undefined) found.push(below(shape, ['properties', name], value));
      isOpen ||= value === undefined && mayHaveOthers(own);
    }
    if (found.length > 0) return { shapes: found, known: [...known] };
    return { shapes: isOpen ? [] : undefined, known: [...known] };
  }

  /** Shapes with their references followed, and their alternatives and parts. */
  parts(shapes: Shapes): readonly Placed[] {
    return shapes.flatMap((shape) => this.flat(shape));
  }

  /** The members that shapes name. */
  names(shapes: Shapes): readonly string[] {
    const all = this.parts(shapes);
    return [...new Set(all.flatMap(({ value }) => Object.keys(plainObject(plainObject(value)?.['properties']) ?? {})))];
  }

  /** The items of shapes; `undefined` where none is a list. */
  items(shapes: Shapes): Shapes | undefined {
    const all = this.parts(shapes);
    if (all.length === 0) return [];
    const lists = all.filter(({ value }) => mayBe(plainObject(value) ?? {}, 'array'));
    if (lists.length === 0) return undefined;
    return lists.flatMap((shape) => {
      const own = plainObject(shape.value) ?? {};
      const items = own['items'];
      if (own['prefixItems'] !== undefined || items === undefined || typeof items === 'boolean') return [];
      return [below(shape, ['items'], items)];
    });
  }

  /** What a member is said to mean. */
  about(shapes: Shapes): string | undefined {
    for (const shape of this.parts(shapes)) {
      const { description, title } = plainObject(shape.value) ?? {};
      const text = description ?? title;
      if (typeof text === 'string') return text.trim().split('\n')[0];
    }
    return undefined;
  }

  /** The types that shapes allow; none where they do not say. */
  types(shapes: Shapes): readonly string[] {
    return this.parts(shapes).flatMap(({ value }) => typesOf(plainObject(value) ?? {}));
  }

  /** Types that shapes allow, and a format or choices where they say some: `string (date)`. */
  typeWords(shapes: Shapes): string {
    const words = this.parts(shapes).map(({ value }) => wordsOf(plainObject(value) ?? {}));
    return [...new Set(words.filter((each) => each !== ''))].join(' or ');
  }

  /** A schema with its references followed, and its alternatives and parts as schemas of their own. */
  private flat(shape: Placed, depth = 0): readonly Placed[] {
    const at = this.description.documents.followed(shape);
    const own = plainObject(at.value);
    if (!own || depth > MAX_DEPTH) return [];
    const inner = ['allOf', 'oneOf', 'anyOf'].flatMap((keyword) =>
      plainList(own[keyword]).flatMap((value, i) => this.flat(below(at, [keyword, i], value), depth + 1)),
    );
    const saysMore = own['properties'] !== undefined || own['items'] !== undefined || own['type'] !== undefined;
    return inner.length > 0 && !saysMore ? inner : [at, ...inner];
  }
}

/** Whether an object may have members that its schema does not name. */
function mayHaveOthers(own: PlainObject): boolean {
  if (!mayBe(own, 'object')) return false;
  if (own['properties'] === undefined) return own['additionalProperties'] !== false;
  const { additionalProperties: others } = own;
  return own['patternProperties'] !== undefined || (others !== undefined && others !== false);
}

function mayBe(own: PlainObject, wanted: string): boolean {
  return own['type'] === undefined || typesOf(own).includes(wanted);
}

function typesOf({ type }: PlainObject): readonly string[] {
  return (Array.isArray(type) ? type : type === undefined ? [] : [type]).map(String);
}

function wordsOf(own: PlainObject): string {
  const { format, enum: choices } = own;
  const types = typesOf(own).join(' or ');
  const shown = plainList(choices).map(String);
  if (shown.length > 0) return `${types || 'one'} of ${shown.slice(0, 8).join(', ')}${shown.length > 8 ? ', ...' : ''}`;
  return typeof format === 'string' ? `${types} (${format})` : types;
}
