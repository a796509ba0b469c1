import { Schemas } from '../../src/core/schema/json-schemas.ts';
import type { Value } from '../../src/core/value/value.ts';

const files: Readonly<Record<string, string>> = {
  'berth.json': '{"type": "object", "requried": ["id"]}',
  'berth-ok.json': '{"type": "object", "required": ["id"]}',
};
const schemas = new Schemas((path) =>
  files[path] === undefined
    ? { message: `The file ${path} does not exist` }
    : { bytes: new TextEncoder().encode(files[path]), path },
);

test.each<[schema: Value, said: string, advice?: string]>([
  [
    { propertyes: {} },
    '"propertyes" is no keyword of JSON Schema 2020-12 (#/propertyes)',
    'Did you mean "properties"?',
  ],
  [{ properties: { id: { minLenght: 2 } } }, '(#/properties/id/minLenght)', 'minLength'],
  [{ items: { anyOf: [{}, { not: { enm: [1] } }] } }, '(#/items/anyOf/1/not/enm)', 'enum'],
  [{ $defs: { 'a/b~': { nullable: true } } }, '(#/$defs/a~1b~0/nullable)', 'Write type: [..., "null"].'],
  [{ type: 'string', minimum: 3 }, '"minimum" is of numbers, and the type here is string'],
  [{ type: ['integer', 'null'], maxLength: 3 }, '"maxLength" is of strings, and the type here is number or null'],
  [{ type: 'integer', format: 'date' }, '"format" is of strings'],
  [{ type: 'string', format: 'datetime' }, '"datetime" is no format', 'date-time'],
  [{ then: {} }, '"then" says nothing without "if"'],
  [{ type: 'array', minContains: 1 }, '"minContains" says nothing without "contains"'],
  [{ pattern: '^(\\d+' }, 'This parenthesis is not closed'],
  [{ $schema: 'http://json-schema.org/draft-07/schema#' }, 'another version than 2020-12'],
  [{ type: 'objekt' }, "'objekt' is no type", 'object'],
  [{ properties: 1 }, 'This is not a valid schema'],
  [{ $ref: 'berth.json' }, '"requried" is no keyword of JSON Schema 2020-12 (berth.json#/requried)', 'required'],
  [{ a: 1, b: 2, c: 3 }, '(#/a; 2 more mistakes)'],
])('%j is wrong', (schema, said, advice = '') => {
  const compiled = schemas.ofValue(schema);
  if (!('problem' in compiled)) throw new Error('This schema is to be refused');
  expect(compiled.problem.code).toBe('invalid-schema');
  expect(compiled.problem.message).toContain(said);
  expect(compiled.problem.advice ?? '').toContain(advice);
});

test.each<[schema: Value, fits: Value, misfit: Value]>([
  [
    { 'x-since': 2, type: 'object', title: 't', example: {}, properties: { id: { type: 'integer', format: 'int32' } } },
    { id: 1 },
    { id: 'x' },
  ],
  [{ type: ['string', 'null'], pattern: '^\\w+\\d$' }, null, 'x'],
  [
    { properties: { minimum: { minimum: 3 } }, if: { required: ['minimum'] }, then: true },
    { minimum: 3 },
    { minimum: 1 },
  ],
  [{ $ref: 'berth-ok.json' }, { id: 1 }, {}],
  [{ type: 'array', items: { const: 1 }, contains: { const: 1 }, minContains: 2 }, [1, 1], [1]],
])('%j is a schema', (schema, fits, misfit) => {
  const compiled = schemas.ofValue(schema);
  if ('problem' in compiled) throw new Error(compiled.problem.message);
  expect([compiled.misfits(fits), compiled.unchecked]).toEqual([[], []]);
  expect(compiled.misfits(misfit)).not.toEqual([]);
});

test('a pattern that would need backtracking is told, and lets every text through', () => {
  const compiled = schemas.ofValue({ properties: { a: { pattern: '^(?!N)' }, b: { pattern: '(.)\\1' } } });
  if ('problem' in compiled) throw new Error(compiled.problem.message);
  expect(compiled.unchecked.map(({ pointer }) => pointer)).toEqual(['/properties/a/pattern', '/properties/b/pattern']);
  expect(compiled.misfits({ a: 'N', b: 'x' })).toEqual([]);
});
