import { didYouMean } from '../diagnostics/suggest.ts';
import { compilePattern } from '../expression/pattern/pattern.ts';
import { showValue } from '../value/show.ts';
import { pointerPart } from '../value/json-pointer.ts';
import { isList, isObject, type ObjectValue, type Value } from '../value/value.ts';

/** What is wrong at a place of a schema, or cannot be checked there: a JSON Pointer, and what to say. */
export type SchemaFault = Readonly<{ pointer: string; message: string; advice?: string | undefined }>;

/** What a strict reading of a schema finds: what makes it wrong, and patterns that no text is checked by. */
type StrictReading = Readonly<{ faults: readonly SchemaFault[]; unchecked: readonly SchemaFault[] }>;

/** Keywords of JSON Schema 2020-12 that go with one type of value; `number` is integers too. */
const KEYWORDS_OF_TYPE: Readonly<Record<string, readonly string[]>> = {
  number: ['multipleOf', 'maximum', 'exclusiveMaximum', 'minimum', 'exclusiveMinimum'],
  string: ['maxLength', 'minLength', 'pattern', 'contentEncoding', 'contentMediaType', 'contentSchema'],
  array: 'items prefixItems maxItems minItems uniqueItems contains maxContains minContains unevaluatedItems'.split(' '),
  object:
    'properties patternProperties additionalProperties propertyNames maxProperties minProperties required dependentRequired dependentSchemas unevaluatedProperties'.split(
      ' ',
    ),
};
const TYPE_OF_KEYWORD = new Map(
  Object.entries(KEYWORDS_OF_TYPE).flatMap(([type, keywords]) => keywords.map((keyword) => [keyword, type] as const)),
);
/** Those of any type: the core, applicators, `enum`, annotations, and the base vocabulary of OpenAPI 3.1. */
const OTHERS =
  '$schema $id $ref $anchor $dynamicRef $dynamicAnchor $vocabulary $comment $defs definitions allOf anyOf oneOf not if then else type enum const format title description default deprecated readOnly writeOnly examples example discriminator xml externalDocs'.split(
    ' ',
  );
const KEYWORDS: ReadonlySet<string> = new Set([...TYPE_OF_KEYWORD.keys(), ...OTHERS]);
/** Without the other keyword these say nothing. */
const NEEDS: Readonly<Record<string, string>> = {
  then: 'if',
  else: 'if',
  minContains: 'contains',
  maxContains: 'contains',
};
/** Keywords of other versions, and what is written for them now. */
const FORMER: Readonly<Record<string, string>> = {
  nullable: 'Write type: [..., "null"].',
  additionalItems: 'Write items, with prefixItems for the first ones.',
  dependencies: 'Write dependentRequired or dependentSchemas.',
  $recursiveRef: 'Write $dynamicRef.',
  id: 'Write $id.',
};
const TYPES: ReadonlySet<Value> = new Set(['object', 'array', 'string', 'number', 'integer', 'boolean', 'null']);
const NUMBER_FORMATS = new Set(['int32', 'int64', 'float', 'double']);
/** Keywords whose value is a schema, a list of them, or schemas by name. */
export const ONE: readonly string[] =
  'not if then else items contains additionalProperties propertyNames unevaluatedItems unevaluatedProperties contentSchema'.split(
    ' ',
  );
export const SEVERAL: readonly string[] = ['allOf', 'anyOf', 'oneOf', 'prefixItems'];
export const NAMED: readonly string[] = ['properties', 'patternProperties', 'dependentSchemas', '$defs', 'definitions'];
const VERSION = 'https://json-schema.org/draft/2020-12/schema';

/**
 * Reads a JSON Schema of the project strictly: a keyword or format that there is not, one that does not go with the type
 * beside it, and one that says nothing by itself are mistakes, since the validator would pass over them. Names that begin
 * with `x-` are annotations.
 */
export function readStrictly(schema: Value, formats: ReadonlySet<string>): StrictReading {
  const faults: SchemaFault[] = [];
  const unchecked: SchemaFault[] = [];
  const visit = (at: Value, pointer: string): void => {
    if (!isObject(at)) return;
    faults.push(...faultsOf(at, pointer, formats));
    for (const { isPattern: isOne, ...fault } of patternsOf(at, pointer)) (isOne ? unchecked : faults).push(fault);
    for (const [below, value] of subschemas(at)) visit(value, pointer + below);
  };
  visit(schema, '');
  return { faults, unchecked };
}

function faultsOf(at: ObjectValue, pointer: string, formats: ReadonlySet<string>): readonly SchemaFault[] {
  const types = typesOf(at);
  return Object.entries(at).flatMap(([name, value]): readonly SchemaFault[] => {
    if (name.startsWith('x-')) return [];
    const keyword = { name, value, at, types, formats };
    for (const rule of KEYWORD_RULES) {
      const fault = rule(keyword);
      if (fault) return [{ pointer: pointer + pointerPart(name), message: fault.message, advice: fault.advice }];
    }
    return [];
  });
}

/** A keyword of a schema, and what stands around it. */
type Keyword = Readonly<{
  name: string;
  value: Value;
  at: ObjectValue;
  types: ReadonlySet<string> | undefined;
  formats: ReadonlySet<string>;
}>;

type KeywordRule = (keyword: Keyword) => Readonly<{ message: string; advice?: string | undefined }> | undefined;

/** What may be wrong with a keyword; the first that holds is told. */
const KEYWORD_RULES: readonly KeywordRule[] = [
  ({ name }) =>
    KEYWORDS.has(name)
      ? undefined
      : {
          message: `"${name}" is no keyword of JSON Schema 2020-12`,
          advice: FORMER[name] ?? didYouMean(name, [...KEYWORDS]),
        },
  ({ name, value }) =>
    name !== '$schema' || value === VERSION || value === `${VERSION}#`
      ? undefined
      : { message: `This schema is of another version than 2020-12`, advice: `Write "$schema": "${VERSION}".` },
  ({ name, value, formats }) =>
    name !== 'format' || typeof value !== 'string' || formats.has(value)
      ? undefined
      : {
          message: `"${value}" is no format that is known`,
          advice: didYouMean(value, [...formats]) ?? 'Write pattern instead.',
        },
  ({ name, value }) => {
    const said = isList(value) ? [...value] : [value];
    const strange = name === 'type' ? said.find((each) => !TYPES.has(each)) : undefined;
    if (strange === undefined) return undefined;
    return {
      message: `${showValue(strange)} is no type`,
      advice: didYouMean(String(strange), [...TYPES] as string[]),
    };
  },
  ({ name, at }) => {
    const needed = NEEDS[name];
    if (needed === undefined || Object.hasOwn(at, needed)) return undefined;
    return { message: `"${name}" says nothing without "${needed}"` };
  },
  ({ name, value, types }) => {
    const wanted = name === 'format' ? typeOfFormat(value) : TYPE_OF_KEYWORD.get(name);
    if (wanted === undefined || types === undefined || types.has(wanted)) return undefined;
    return { message: `"${name}" is of ${wanted}s, and the type here is ${[...types].join(' or ')}` };
  },
];

function typeOfFormat(format: Value): string {
  return NUMBER_FORMATS.has(String(format)) ? 'number' : 'string';
}

/** The types that a schema allows by itself; nothing where it does not say. */
function typesOf({ type }: ObjectValue): ReadonlySet<string> | undefined {
  const said = isList(type) ? type : type === undefined ? undefined : [type];
  return said && new Set(said.map((each) => (each === 'integer' ? 'number' : String(each))));
}

/** Patterns that the linear engine cannot run, for look-around or back-references, or since they are none. */
function patternsOf(
  { pattern, patternProperties }: ObjectValue,
  pointer: string,
): readonly (SchemaFault & { isPattern: boolean })[] {
  const all: (readonly [pattern: string, pointer: string])[] = [
    ...(typeof pattern === 'string' ? [[pattern, '/pattern'] as const] : []),
    ...(isObject(patternProperties)
      ? Object.keys(patternProperties).map((each) => [each, `/patternProperties${pointerPart(each)}`] as const)
      : []),
  ];
  return all.flatMap(([text, below]) => {
    const { problem } = compilePattern(text, 'ecma');
    return problem ? [{ pointer: pointer + below, message: problem.message, isPattern: isPattern(text) }] : [];
  });
}

/** Whether a text is a regular expression of ECMA-262, whatever engine runs it. */
function isPattern(text: string): boolean {
  try {
    new RegExp(text, 'u');
    return true;
  } catch {
    return false;
  }
}

function subschemas(at: ObjectValue): readonly (readonly [pointer: string, schema: Value])[] {
  return Object.entries(at).flatMap(([name, value]) => {
    const place = pointerPart(name);
    if (ONE.includes(name)) return [[place, value] as const];
    if (SEVERAL.includes(name) && isList(value)) return [...value].map((each, i) => [`${place}/${i}`, each] as const);
    if (!NAMED.includes(name) || !isObject(value)) return [];
    return Object.entries(value).map(([key, each]) => [place + pointerPart(key), each] as const);
  });
}
