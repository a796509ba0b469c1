import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { parse } from 'yaml';
import { createValidator } from '../../src/core/json-schema-packages.ts';
import { functions } from '../../src/core/expression/functions/list.ts';
import { findPages, reference } from '../../src/core/reference/find.ts';
import { referenceFiles } from '../../src/core/reference/markdown.ts';
import { bothSchemas, fileSchema } from '../../src/core/reference/schemas.ts';

const root = path.join(__dirname, '../..');

test.each(Object.entries(referenceFiles()))(
  'docs/reference/%s is what the code says (npm run reference)',
  (name, text) => {
    expect(readFileSync(path.join(root, 'docs/reference', name), 'utf8')).toBe(text);
  },
);

test('every function has a page, and every page says something', () => {
  const pages = reference().find(({ title }) => title === 'Functions');
  expect(pages!.groups.flatMap((group) => group.pages.map(({ name }) => name)).sort()).toEqual(
    functions.map(({ name }) => name).sort(),
  );
  for (const { groups } of reference()) {
    for (const page of groups.flatMap((group) => group.pages)) expect(page.paragraphs.join('')).not.toBe('');
  }
});

test('a word from elsewhere leads to the function that is meant', () => {
  expect(findPages('filter').map(({ name }) => name)).toEqual(['filtered']);
  expect(findPages('keep').length).toBeGreaterThan(0);
});

describe('schemas for editors', () => {
  const validator = () => createValidator({ strict: true, allowUnionTypes: true, strictRequired: false });
  const chain = validator().compile(fileSchema('chain'));
  const project = validator().compile(fileSchema('project'));
  const both = validator().compile(bothSchemas());
  const read = (file: string): unknown => parse(readFileSync(path.join(root, 'demo', file), 'utf8'));
  const chains = readdirSync(path.join(root, 'demo/chains')).map((name) => `chains/${name}`);

  test.each(chains)('%s fits', (file) => {
    chain(read(file));
    expect(chain.errors ?? []).toEqual([]);
    expect(both(read(file))).toBe(true);
  });

  test('the project file of the demo fits', () => {
    project(read('batharon.yaml'));
    expect(project.errors ?? []).toEqual([]);
    expect(both(read('batharon.yaml'))).toBe(true);
  });

  test.each([
    ['no steps', 'name: x'],
    ['steps that are a mapping', 'steps: {}'],
    ['an unknown key', 'steps: []\nextra: 1'],
    ['an unknown kind of step', 'steps: [{ sing: x }]'],
    ['an unknown key of a call', 'steps: [{ call: a, request: GET /, expects: [] }]'],
    ['a call without a request', 'steps: [{ call: a }]'],
    ['request line without a method', 'steps: [{ call: a, request: /list }]'],
    ['an expectation of no form', 'steps: [{ call: a, request: GET /, expect: [{ like: 1 }] }]'],
    ['a bad duration', 'steps: [{ call: a, request: GET /, timeout: 10 seconds }]'],
    ['an unknown type of input', 'inputs: { a: word }\nsteps: []'],
    ['a wrong step inside another', 'steps: [{ if: x, steps: [{ call: a }] }]'],
    ['keep that is a list', 'steps: [{ call: a, request: GET /, keep: [a] }]'],
  ])('broken: %s', (_name, text) => {
    expect(chain(parse(text))).toBe(false);
  });

  test.each([
    ['no apis', 'zone: UTC'],
    ['apis that are a list', 'apis: []'],
    ['an unknown key of an api', 'apis: { a: { adress: x } }'],
    ['an unknown scheme', 'apis: { a: { url: x, auth: { magic: y } } }'],
  ])('broken project: %s', (_name, text) => {
    expect(project(parse(text))).toBe(false);
  });
});
