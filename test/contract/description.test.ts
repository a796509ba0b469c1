import { DescriptionFault } from '../../src/core/contract/documents.ts';
import { sampleOf } from '../../src/core/contract/sample.ts';
import { contractOf, described, harbourContract } from '../support/contracts.ts';

const HEAD = 'openapi: 3.1.0\ninfo: { title: T, version: "1" }\n';
const get = (schema: string) =>
  `${HEAD}paths:\n  /a:\n    get:\n      responses:\n        '200':\n          description: ok\n          content: { application/json: { schema: ${schema} } }\n`;

test.each([
  ['no file', {}, 'does not exist'],
  ['no description', { 'a.yaml': 'hello: 1\n' }, 'This file is no OpenAPI description'],
  ['another version', { 'a.yaml': 'openapi: 4.0.0\n' }, 'OpenAPI 4.0.0 is not read'],
  ['version 2', { 'a.yaml': 'swagger: "2.0"\n' }, 'This description is of OpenAPI 2.0'],
  ['YAML that does not parse', { 'a.yaml': 'openapi: 3.1.0\npaths: [\n' }, 'cannot be read as YAML'],
  ['JSON that does not parse', { 'a.json': '{"openapi": "3.1.0",}' }, 'cannot be read as JSON'],
])('%s: why it cannot be used', (_name, files, message) => {
  const read = described(Object.keys(files).length === 0 ? { 'gone.yaml': undefined as never } : files);
  expect('problem' in read && read.problem.message).toContain(message);
});

test.each([
  ['a reference to nothing', "{ $ref: '#/components/schemas/Gone' }", 'refers to nothing'],
  ['a reference to a file that is not there', '{ $ref: gone.yaml }', 'does not exist'],
  ['a reference to the network', "{ $ref: 'https://harbour.example/x.yaml' }", 'reference to the network'],
  ['a schema that cannot be compiled', '{ type: strange }', 'This schema cannot be used'],
])('%s is told where it is needed, and all else is used', (_name, schema, message) => {
  const contract = contractOf({ 'a.yaml': `${get(schema)}  /b:\n    get: { responses: {} }\n` });
  const { operations } = contract.description;
  expect(operations.map(({ name }) => name)).toEqual(['GET /a', 'GET /b']);
  const use = () => {
    const { schema: at } = operations[0]!.responses[0]!.content[0]!;
    return contract.unfit(1, at!, 'response');
  };
  expect(use).toThrow(DescriptionFault);
  expect(use).toThrow(message);
});

test('a path that refers to nothing is left out, and named with its line', () => {
  const text = `${HEAD}paths:\n  /a: { $ref: '#/gone' }\n  /b: { $ref: b.json }\n`;
  const read = described({ 'a.yaml': text, 'b.json': '{"get": {"responses": {}}}' });
  if ('problem' in read) throw new Error(read.problem.message);
  const { operations, faults } = read.description;
  expect(operations.map(({ name }) => name)).toEqual(['GET /b']);
  expect(faults.map((fault) => read.description.problemOf(fault))).toMatchObject([{ file: 'a.yaml', line: 4 }]);
});

test('references in a circle: of schemas they are used, of references alone they are told', () => {
  const tree = `{ type: object, properties: { below: { $ref: '#/paths/~1a/get/responses/200/content/application~1json/schema' } } }`;
  const contract = contractOf({ 'a.yaml': get(tree) });
  const { schema } = contract.description.operations[0]!.responses[0]!.content[0]!;
  expect(contract.unfit({ below: { below: {} } }, schema!, 'response')).toEqual([]);
  expect(contract.unfit({ below: { below: 1 } }, schema!, 'response')).toMatchObject([{ pointer: '/below/below' }]);
  expect(sampleOf(schema!, contract.description, { side: 'response', isFull: true })).toMatchObject({ below: {} });
  const round = contractOf({ 'a.yaml': `${get("{ $ref: '#/x' }")}x: { $ref: '#/x' }\n` });
  expect(() => round.description.operations[0]!.responses).toThrow('leads back to itself');
});

test.each([
  ['nullable', '{ type: string, nullable: true }', [null, 'a'], [1]],
  ['a choice that may be null', '{ type: string, nullable: true, enum: [a] }', [null, 'a'], ['b']],
  ['an exclusive bound', '{ type: number, minimum: 1, exclusiveMinimum: true }', [2], [1]],
  ['a bound that is not exclusive', '{ type: number, maximum: 3, exclusiveMaximum: false }', [3], [4]],
  ['what stands beside a reference', "{ $ref: '#/x', maxLength: 1 }", ['long'], [1]],
])('version 3.0: %s', (_name, schema, good, bad) => {
  const contract = contractOf({ 'a.yaml': `${get(schema).replace('3.1.0', '3.0.3')}x: { type: string }\n` });
  const { schema: at } = contract.description.operations[0]!.responses[0]!.content[0]!;
  for (const value of good) expect(contract.unfit(value, at!, 'response')).toEqual([]);
  for (const value of bad) expect(contract.unfit(value, at!, 'response')).not.toEqual([]);
});

test('what is only read is not required of a request, and what is only written not of a response', () => {
  const schema =
    '{ type: object, required: [id, key], properties: { id: { readOnly: true }, key: { writeOnly: true } } }';
  const contract = contractOf({ 'a.yaml': get(schema) });
  const { schema: at } = contract.description.operations[0]!.responses[0]!.content[0]!;
  expect(contract.unfit({ key: 1 }, at!, 'request')).toEqual([]);
  expect(contract.unfit({ id: 1 }, at!, 'response')).toEqual([]);
  expect(contract.unfit({ id: 1 }, at!, 'request')).toMatchObject([{ message: 'must have the member "key"' }]);
});

test.each([
  ['GET', '/v1', '/vessels', 'listVessels'],
  ['GET', '/v1', '/vessels/KM%20204%2F5', 'getVessel'],
  ['GET', '', '/v1/berths/deepest', 'getDeepestBerth'],
  ['GET', '/elsewhere', '/berths/N1', 'getBerth'],
  ['DELETE', '/v1', '/berths/N1', 'deleteBerth'],
  ['GET', '/v1', '/berths/N1/reservations', undefined],
  ['GET', '/v1', '/vessels/', undefined],
])('%s %s%s is %s', (method, base, path, id) => {
  const { index } = harbourContract();
  const segments = path.split('/').slice(1).map(decodeURIComponent);
  expect(index.find(method, base, segments)?.id).toBe(id);
});

test('samples of every schema of the harbour fit it', () => {
  const contract = harbourContract();
  const { description } = contract;
  const bodies = description.operations.flatMap(({ name, body, responses }) => [
    ...(body?.content ?? []).map((each) => ({ name, each, side: 'request' as const })),
    ...responses.flatMap(({ content }) => content.map((each) => ({ name, each, side: 'response' as const }))),
  ]);
  expect(bodies.length).toBeGreaterThan(20);
  for (const { name, each, side } of bodies) {
    if (!each.schema) continue;
    for (const isFull of [true, false]) {
      const value = sampleOf(each.schema, description, { side, isFull });
      expect([name, contract.unfit(value, each.schema, side)]).toEqual([name, []]);
    }
  }
});

test.each([
  [
    "{ type: object, required: [kind], discriminator: { propertyName: kind, mapping: { boat: '#/x' } }, oneOf: [{ $ref: '#/x' }] }",
    { kind: 'boat', a: true },
  ],
  ['{ type: array, minItems: 2, items: { type: integer, minimum: 3 } }', [3, 3]],
  ["{ type: string, pattern: '^[A-Z]{2}-\\d{3}$' }", 'AA-111'],
  ['{ type: string, format: uuid }', expect.stringMatching(/^[0-9a-f-]{36}$/)],
  ['{ allOf: [{ $ref: "#/x" }, { properties: { b: { const: 4 } } }] }', { a: true, b: 4 }],
])('a sample of %s', (schema, wanted) => {
  const contract = contractOf({
    'a.yaml': `${get(schema)}x: { type: object, properties: { a: { type: boolean } } }\n`,
  });
  const { schema: at } = contract.description.operations[0]!.responses[0]!.content[0]!;
  expect(sampleOf(at!, contract.description, { side: 'response', isFull: true })).toEqual(wanted);
});

test('aliases that stand for more than memory holds, and nesting without end, are told', () => {
  const levels = Array.from(
    { length: 20 },
    (_, i) =>
      `x${i}: &x${i} { anyOf: [${Array(10)
        .fill(i === 0 ? '{ type: string }' : `*x${i - 1}`)
        .join(', ')}] }\n`,
  );
  const bomb = contractOf({ 'a.yaml': `${levels.join('')}${get('*x19')}` });
  const nested = `${'{"items": '.repeat(600)}{}${'}'.repeat(600)}`;
  const content = `{"application/json": {"schema": ${nested}}}`;
  const deep = contractOf({
    'a.json': `{"openapi": "3.1.0", "paths": {"/a": {"get": {"responses": {"200": {"content": ${content}}}}}}}`,
  });
  for (const contract of [bomb, deep]) {
    const { schema } = contract.description.operations[0]!.responses[0]!.content[0]!;
    expect(() => contract.unfit(1, schema!, 'response')).toThrow('too large, or nests too deep');
    expect(() => sampleOf(schema!, contract.description, { side: 'response', isFull: true })).not.toThrow();
  }
});
