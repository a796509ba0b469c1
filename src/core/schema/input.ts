import type * as z from 'zod';

export type JsonSchema = { [key: string]: unknown; [HOLDS]?: Holds };

/** What a text of a file holds: for those who complete it. A symbol is in no JSON Schema that is printed. */
export const HOLDS = Symbol('what a text holds');

export type Holds = 'expression' | 'placeholders' | 'request-line' | 'each-head' | 'api' | 'chain-file' | 'file';

/** The same JSON Schema, with what its texts hold. */
export function holding(holds: Holds, json: JsonSchema): JsonSchema {
  return { ...json, [HOLDS]: holds };
}

/** What a schema takes, as people and as JSON Schema (2020-12) say it. */
export type Input = Readonly<{ what: string; json: JsonSchema }>;

type MakeInput = (input: (schema: z.ZodType) => Input) => Input;

/** By definition, which a schema keeps when it is described or made optional. */
const inputs = new WeakMap<object, MakeInput>();

/** Says what a schema takes that computes its value, which nobody could see from outside. */
export function taking<S extends z.ZodType>(schema: S, make: MakeInput): S {
  inputs.set(schema._zod.def, make);
  return schema;
}

type AnyDef = Readonly<{
  type: string;
  innerType?: z.ZodType;
  in?: z.ZodType;
  element?: z.ZodType;
  options?: readonly z.ZodType[];
  shape?: Readonly<Record<string, z.ZodType>>;
}>;

/** What a schema takes, with what its description says. */
export function inputOf(schema: z.ZodType): Input {
  const { what, json } = plainInput(schema);
  const { description } = schema;
  return { what, json: description === undefined ? json : { ...json, description } };
}

function plainInput(schema: z.ZodType): Input {
  const def = schema._zod.def as unknown as AnyDef;
  const made = inputs.get(def);
  if (made) return made(inputOf);
  switch (def.type) {
    case 'optional':
      return inputOf(def.innerType!);
    case 'pipe':
      return inputOf(def.in!);
    case 'array': {
      const { what, json } = inputOf(def.element!);
      return { what: `an array, each ${what}`, json: { type: 'array', items: json } };
    }
    case 'union': {
      const options = def.options!.map(inputOf);
      return {
        what: [...new Set(options.map(({ what }) => what))].join(', or '),
        json: { anyOf: options.map(({ json }) => json) },
      };
    }
    case 'object':
      return { what: 'a mapping', json: objectSchema(def.shape!) };
    default:
      return { what: 'a value', json: {} };
  }
}

function objectSchema(shape: Readonly<Record<string, z.ZodType>>): JsonSchema {
  const entries = Object.entries(shape);
  const required = entries.filter(([, schema]) => schema._zod.def.type !== 'optional').map(([key]) => key);
  return {
    type: 'object',
    properties: Object.fromEntries(entries.map(([key, schema]) => [key, inputOf(schema).json])),
    ...(required.length > 0 ? { required } : {}),
    additionalProperties: false,
  };
}

/** The mapping that a value may be: itself, one of its alternatives, or each of its items. */
export function mappingIn(schema: z.ZodType): z.ZodType | undefined {
  const def = schema._zod.def as unknown as AnyDef;
  if (def.shape) return schema;
  for (const each of [def.innerType, def.in, def.element, ...(def.options ?? [])]) {
    const found = each && mappingIn(each);
    if (found) return found;
  }
  return undefined;
}

/** The keys of a mapping, whatever it is made into afterwards. */
export function shapeOf(schema: z.ZodType): Readonly<Record<string, z.ZodType>> {
  const def = schema._zod.def as unknown as AnyDef;
  const inner = def.innerType ?? def.in;
  return def.shape ?? (inner ? shapeOf(inner) : {});
}
