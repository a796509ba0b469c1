import { textMatching } from '../expression/pattern/example.ts';
import type { Contract } from './contract.ts';
import type { MediaType } from './operation.ts';
import type { Description } from './description.ts';
import { below, type Placed } from './documents.ts';
import { membersOf, plainList, plainObject, type PlainObject } from './plain.ts';
import type { Side } from './schema-closure.ts';

/** Schemas within schemas, at most; what is below is left out where it may be. */
const MAX_DEPTH = 12;

/** Texts of the formats that descriptions name most. */
const OF_FORMAT: Readonly<Record<string, string>> = {
  date: '2026-05-23',
  'date-time': '2026-05-23T12:00:00Z',
  time: '12:00:00Z',
  duration: 'PT1H',
  email: 'mole@harbour.example',
  hostname: 'harbour.example',
  ipv4: '192.0.2.1',
  ipv6: '2001:db8::1',
  uri: 'https://harbour.example/',
  'uri-reference': '/',
  url: 'https://harbour.example/',
  uuid: '3f2b8c1e-5d47-4a60-9b1a-7c0e2d9f4a55',
  byte: 'aGFyYm91cg==',
  binary: '',
};

type Wish = Readonly<{
  side: Side;
  /** Whether members that are not required are there too. */
  isFull: boolean;
}>;

/**
 * A value that fits a schema as far as it says by simple means: its example, default, constant or first choice, else one of its
 * type and format. Of alternatives the first counts. Throws `DescriptionFault`.
 */
export function sampleOf(schema: Placed, description: Description, wish: Wish): unknown {
  return new Sampler(description, wish).value(schema, 0);
}

/** A body of a media type: its example where that fits its schema, else a sample; and why the example is not taken. */
export function bodySample(
  contract: Contract,
  { schema, example }: Pick<MediaType, 'schema' | 'example'>,
  wish: Wish,
): Readonly<{ value: unknown; unfit?: string }> {
  const made = () => (schema ? sampleOf(schema, contract.description, wish) : undefined);
  if (example === undefined) return { value: made() };
  const [first] = schema ? contract.unfit(example, schema, wish.side) : [];
  if (!first) return { value: example };
  const unfit = `The example does not fit its schema: ${first.pointer || 'it'} ${first.message} (${contract.placeText(first.at)})`;
  return { value: made(), unfit };
}

class Sampler {
  constructor(
    private readonly description: Description,
    private readonly wish: Wish,
  ) {}

  value(schema: Placed, depth: number): unknown {
    const at = this.description.documents.followed(schema);
    const own = plainObject(at.value);
    if (!own || depth > MAX_DEPTH) return null;
    const said = [
      own['example'],
      plainList(own['examples'])[0],
      own['default'],
      own['const'],
      plainList(own['enum'])[0],
    ];
    const found = said.find((each) => each !== undefined);
    if (found !== undefined) return found;
    const alternative = ['oneOf', 'anyOf'].find((keyword) => plainList(own[keyword]).length > 0);
    if (alternative !== undefined) return this.alternative(at, own, alternative, depth);
    if (own['allOf'] !== undefined) return this.merged(at, own, depth);
    return this.ofType(at, own, depth);
  }

  private alternative(at: Placed, own: PlainObject, keyword: string, depth: number): unknown {
    const first = below(at, [keyword, 0], plainList(own[keyword])[0]);
    const value = this.value(first, depth + 1);
    const object = plainObject(value);
    if (!object) return value;
    const beside = plainObject(this.ofType(at, own, depth)) ?? {};
    const name = plainObject(own['discriminator'])?.['propertyName'];
    if (typeof name !== 'string' || object[name] !== undefined) return { ...beside, ...object };
    return { ...beside, ...object, [name]: discriminatorOf(own, first) };
  }

  private merged(at: Placed, own: PlainObject, depth: number): unknown {
    const parts = plainList(own['allOf']).map((value, i) => this.value(below(at, ['allOf', i], value), depth + 1));
    const objects = [...parts, this.ofType(at, own, depth)].flatMap((each) => plainObject(each) ?? []);
    return objects.length > 0 ? Object.assign({}, ...objects) : parts[0];
  }

  private ofType(at: Placed, own: PlainObject, depth: number): unknown {
    const type = Array.isArray(own['type']) ? own['type'].find((each) => each !== 'null') : own['type'];
    if (type === 'object' || (type === undefined && own['properties'] !== undefined))
      return this.object(at, own, depth);
    if (type === 'array') return this.list(at, own, depth);
    if (type === 'integer' || type === 'number') return numberIn(own);
    if (type === 'boolean') return true;
    if (type === 'string') return textIn(own);
    return type === undefined && own['allOf'] !== undefined ? undefined : null;
  }

  private object(at: Placed, own: PlainObject, depth: number): PlainObject {
    const required = new Set(plainList(own['required']).map(String));
    const members = membersOf(own['properties']).flatMap(([name, value]): readonly (readonly [string, unknown])[] => {
      const member = this.description.documents.followed(below(at, ['properties', name], value));
      const { readOnly, writeOnly } = plainObject(member.value) ?? {};
      const isOfOtherSide = (this.wish.side === 'request' ? readOnly : writeOnly) === true;
      const isWanted = required.has(name) || (this.wish.isFull && depth < MAX_DEPTH / 2);
      return isWanted && !isOfOtherSide ? [[name, this.value(member, depth + 1)]] : [];
    });
    return Object.fromEntries(members);
  }

  private list(at: Placed, own: PlainObject, depth: number): readonly unknown[] {
    const { items, minItems } = own;
    if (items === undefined || typeof items === 'boolean') return [];
    const count = Math.max(1, typeof minItems === 'number' ? minItems : 1);
    const item = this.value(below(at, ['items'], items), depth + 1);
    return Array.from({ length: Math.min(count, 20) }, () => item);
  }
}

/** The value of a discriminator: as it is mapped, else the name of the schema (OpenAPI 3.1 section 4.8.25). */
function discriminatorOf(own: PlainObject, first: Placed): string {
  const reference = plainObject(first.value)?.['$ref'];
  const mapped = membersOf(plainObject(own['discriminator'])?.['mapping']).find(([, to]) => to === reference);
  return (
    mapped?.[0] ??
    String(reference ?? '')
      .split('/')
      .at(-1)!
  );
}

function numberIn({ minimum, maximum, exclusiveMinimum, multipleOf }: PlainObject): number {
  if (typeof minimum === 'number') return minimum;
  if (typeof exclusiveMinimum === 'number') return exclusiveMinimum + 1;
  const step = typeof multipleOf === 'number' ? multipleOf : 1;
  return typeof maximum === 'number' && maximum < step ? maximum : step;
}

function textIn({ format, pattern, minLength, maxLength }: PlainObject): string {
  const known =
    typeof pattern === 'string' ? textMatching(pattern) : typeof format === 'string' ? OF_FORMAT[format] : undefined;
  if (known !== undefined) return known;
  const text = 'text'.padEnd(typeof minLength === 'number' ? Math.min(minLength, 1000) : 0, 'x');
  return typeof maxLength === 'number' ? text.slice(0, maxLength) : text;
}
