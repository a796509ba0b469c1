import fc from 'fast-check';
import { inferredSchema } from '../../src/core/schema/infer.ts';
import { Schemas } from '../../src/core/schema/json-schemas.ts';
import { readJson } from '../../src/core/value/json-read.ts';
import type { Value } from '../../src/core/value/value.ts';

const schemas = new Schemas(() => ({ message: 'no files' }));

function fits(schema: object, value: unknown): boolean {
  const compiled = schemas.ofValue(valueOf(schema));
  if ('problem' in compiled) throw new Error(compiled.problem.message);
  return compiled.misfits(valueOf(value)).length === 0;
}

function valueOf(plain: unknown): Value {
  const json = readJson(JSON.stringify(plain));
  if (!json.ok) throw new Error(json.message);
  return json.value;
}

const leaf = fc.oneof(
  fc.string(),
  fc.integer(),
  fc.double({ noNaN: true, noDefaultInfinity: true }),
  fc.boolean(),
  fc.constant(null),
  fc.constantFrom('2026-05-23', '2026-05-23T10:00:00Z', 'https://harbour.example/a', '10.0.0.1'),
);
const tree = fc.letrec((tie) => ({
  value: fc.oneof({ maxDepth: 3 }, leaf, fc.array(tie('value'), { maxLength: 4 }), tie('object')),
  object: fc.dictionary(fc.constantFrom('id', 'name', 'berths', 'state', 'length', 'x y', 'toString'), tie('value')),
}));

test('every response that a schema was made from fits it', () => {
  fc.assert(
    fc.property(fc.array(tree.value, { minLength: 1, maxLength: 6 }), (values) => {
      const schema = inferredSchema(values.map(valueOf));
      for (const value of values) expect(fits(schema, value)).toBe(true);
    }),
    { numRuns: 150 },
  );
});

test('a response in which a member that was always there is renamed or retyped does not', () => {
  const vessel = fc.record({
    id: fc.uuid(),
    name: fc.string(),
    length: fc.integer(),
    berth: fc.option(fc.string()),
    tags: fc.array(fc.string()),
  });
  fc.assert(
    fc.property(
      fc.array(vessel, { minLength: 1, maxLength: 5 }),
      fc.constantFrom('id', 'name', 'length', 'berth', 'tags'),
      (vessels, member) => {
        const schema = inferredSchema(vessels.map(valueOf));
        const { [member]: value, ...rest } = vessels[0] as Record<string, unknown>;
        expect(fits(schema, { ...rest, [`${member}_2`]: value })).toBe(false);
        expect(fits(schema, { ...rest, [member]: { of: value } })).toBe(false);
      },
    ),
    { numRuns: 100 },
  );
});

const ofBerths = (name: string, ...states: readonly string[]) =>
  Array.from({ length: 12 }, (_, i) => ({ [name]: states[i % states.length]! }));
const berths = (name: string, schema: object) => ({ type: 'object', properties: { [name]: schema }, required: [name] });

test.each<readonly [unknown[], object]>([
  [[1, 2], { type: 'integer' }],
  [[1, 2.5], { type: 'number' }],
  [['a', null], { type: ['null', 'string'] }],
  [['2026-05-23'], { type: 'string', format: 'date' }],
  [['2026-05-23', 'soon'], { type: 'string' }],
  [
    ofBerths('berthState', 'moored', 'expected'),
    berths('berthState', { type: 'string', enum: ['expected', 'moored'] }),
  ],
  [ofBerths('flag', 'NO', 'DK'), berths('flag', { type: 'string' })],
  [['moored', 'moored'], { type: 'string' }],
  [ofBerths('type', 'a', 'b', 'c', 'd', 'e', 'f', 'g'), berths('type', { type: 'string' })],
  [[[]], { type: 'array' }],
  [[[1], ['a']], { type: 'array', items: { type: ['integer', 'string'] } }],
  [[{}], { type: 'object' }],
  [
    [{ a: 1 }, { a: 2, b: 'x' }],
    { type: 'object', properties: { a: { type: 'integer' }, b: { type: 'string' } }, required: ['a'] },
  ],
  [
    [{ '17': { n: 1 }, '18': { n: 2 } }],
    {
      type: 'object',
      additionalProperties: { type: 'object', properties: { n: { type: 'integer' } }, required: ['n'] },
    },
  ],
  [[{ token: '‹TOKEN›' }], { type: 'object', properties: { token: {} }, required: ['token'] }],
])('%j', (values, schema) => {
  expect(inferredSchema(values.map(valueOf))).toEqual(schema);
});
