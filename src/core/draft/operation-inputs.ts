import type { Description } from '../contract/description.ts';
import type { Operation, Parameter } from '../contract/operation.ts';
import { plainList, plainObject, plainText } from '../contract/plain.ts';
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

const TYPES = ['integer', 'number', 'boolean'] as const;

function inputOf(name: string, { schema, example, about }: Parameter, description: Description): DraftInput {
  const at = schema && description.documents.followed(schema);
  const own = plainObject(at?.value) ?? {};
  const words = at ? new Shaper(description).typeWords([at]) : '';
  const type = own['format'] === 'date' ? 'date' : (TYPES.find((each) => words.startsWith(each)) ?? 'string');
  const said = own['default'] ?? example ?? own['example'] ?? plainList(own['examples'])[0];
  return {
    name,
    type,
    default: isPlain(said) ? String(said) : undefined,
    choices: plainList(own['enum']).map(String),
    about: (about ?? plainText(own['description']))?.trim().split('\n')[0],
  };
}

function isPlain(value: unknown): value is string | number | boolean {
  return ['string', 'number', 'boolean'].includes(typeof value);
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
