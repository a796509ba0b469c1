import type { Description } from '../contract/description.ts';
import type { Operation, Parameter } from '../contract/operation.ts';
import { plainList, plainObject, plainText, type PlainObject } from '../contract/plain.ts';
import { Shaper } from '../contract/shape-at.ts';
import { inputName, nameBehind } from '../template/documentation.ts';
import type { DraftInput } from './take.ts';

/** The inputs of operations: one for parameters of one name and schema, else named with the operation. */
export type Inputs = Readonly<{
  all: readonly DraftInput[];
  nameOf(operation: Operation, parameter: Parameter): string;
}>;

export function inputsOf(
  operations: readonly Operation[],
  taken: ReadonlySet<string>,
  description: Description,
): Inputs {
  const byKey = new Map<string, DraftInput>();
  const names = new Map<string, string>();
  const used = new Map<string, string>();
  for (const operation of operations) {
    for (const parameter of neededBy(operation)) {
      const schema = JSON.stringify([
        parameter.schema?.file,
        parameter.schema?.pointer,
        parameter.schema?.value ?? null,
      ]);
      const plain = plainName(operation, parameter);
      const other = used.get(plain);
      const isFree = !taken.has(plain) && (other === undefined || other === schema);
      const name = isFree ? plain : inputName(`${callName(operation)}_${plain}`);
      used.set(name, schema);
      names.set(`${operation.name} ${parameter.in} ${parameter.name}`, name);
      if (!byKey.has(name)) byKey.set(name, inputOf(name, parameter, description));
    }
  }
  return {
    all: [...byKey.values()],
    nameOf: (operation, parameter) => names.get(`${operation.name} ${parameter.in} ${parameter.name}`)!,
  };
}

/** `vessel_id` of the parameter `id` behind `/vessels/`; any other by its own name. */
function plainName({ path }: Operation, { name, in: place }: Parameter): string {
  const before = path.split('/').filter((part) => part !== '');
  const at = before.indexOf(`{${name}}`);
  return place === 'path' && /^(?:id|name|key)$/i.test(name) && at > 0 ? nameBehind(before[at - 1]) : inputName(name);
}

/** Parameters that a request cannot do without, and that nothing else gives. */
export function neededBy({ parameters }: Operation): readonly Parameter[] {
  return parameters.filter(
    ({ required, in: place, name }) =>
      required && place !== 'cookie' && !(place === 'header' && /^(?:accept|content-type|authorization)$/i.test(name)),
  );
}

function inputOf(name: string, { schema, example, about }: Parameter, description: Description): DraftInput {
  const own = plainObject(schema && description.documents.followed(schema).value) ?? {};
  const types = schema ? new Shaper(description).types([schema]) : [];
  return inputOfSchema(name, { ...own, type: types, default: own['default'] ?? example }, about);
}

const TYPES = ['integer', 'number', 'boolean'] as const;

/** An input with the type, choices, default and explanation of a schema. */
export function inputOfSchema(name: string, schema: PlainObject, about?: string): DraftInput {
  const { type, format, enum: choices, description, example, examples } = schema;
  const [first] = Array.isArray(type) ? (type as unknown[]) : [type];
  const said = schema['default'] ?? example ?? plainList(examples)[0];
  return {
    name,
    type: format === 'date' ? 'date' : (TYPES.find((each) => each === first) ?? 'string'),
    default: ['string', 'number', 'boolean'].includes(typeof said) ? String(said as string) : undefined,
    choices: plainList(choices).map(String),
    about: (about ?? plainText(description))?.trim().split('\n')[0],
  };
}

/** `list-arrivals` of `listArrivals`, else a word of the path. */
export function callName({ id, path, method }: Operation): string {
  const words =
    id ??
    path
      .split('/')
      .filter((part) => /^[A-Za-z][\w-]*$/.test(part))
      .at(-1) ??
    method;
  return words
    .replace(/([a-z0-9])([A-Z])/g, '$1-$2')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '');
}
