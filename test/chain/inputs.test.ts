import { readChain } from '../../src/core/chain/chain-file.ts';
import { givenOnCommandLine, missingInputs, resolveInputs, type Given } from '../../src/core/chain/inputs.ts';
import { readValues } from '../../src/core/chain/values-file.ts';
import { textOf } from '../../src/core/value/text.ts';
import type { Value } from '../../src/core/value/value.ts';
import { writeJson } from '../../src/core/value/json-write.ts';
import { testInputs } from '../support/hosts.ts';

async function inputs(inputs: string, given: Readonly<Record<string, string>> = {}, file?: string) {
  const { chain } = readChain({
    path: 'test.chain.yaml',
    text: `inputs:\n  ${inputs.replaceAll('\n', '\n  ')}\nsteps: [{ say: x }]\n`,
  });
  const all = new Map<string, Given>();
  if (file !== undefined)
    for (const { name, value, source } of readValues({ path: 'in.yaml', text: file }).values)
      all.set(name, { value, source });
  for (const [name, text] of Object.entries(given)) all.set(name, givenOnCommandLine(name, text));
  const resolved = await resolveInputs(chain!, all, {}, testInputs());
  return {
    ...resolved,
    missing: missingInputs(chain!, all).map(({ name }) => name),
    codes: resolved.diagnostics.map(({ code }) => code),
  };
}

const shown = (value: Value | undefined) =>
  value === undefined ? undefined : typeof value === 'object' ? writeJson(value) : textOf(value);

describe('types', () => {
  test.each([
    ['text', 'a b', 'a b'],
    ['text', '', ''],
    ['integer', '-12', '-12'],
    ['integer', '12345678901234567890', '12345678901234567890'],
    ['number', '1.10', '1.10'],
    ['boolean', 'true', 'true'],
    ['date', '2024-02-29', '2024-02-29'],
    ['date-time', '2026-05-23T12:00:00+02:00', '"2026-05-23T10:00:00Z"'],
    ['date-time', '2026-05-23', '"2026-05-22T23:00:00Z"'],
    ['date-time', '2026-03-29T01:30', '"2026-03-29T01:30:00Z"'],
    ['duration', '90s', '"90s"'],
    ['duration', 'PT1H', '"1h"'],
    ['json', '{"a": [1, 2.50]}', '{"a":[1,2.50]}'],
    ['secret', 'hush', 'hush'],
  ])('%s takes %s', async (type, text, value) => {
    const { inputs: found, codes } = await inputs(`x: ${type}`, { x: text });
    expect(codes).toEqual([]);
    expect(shown(found.get('x'))).toBe(type === 'number' ? '1.10' : value);
  });

  test.each([
    ['integer', '1.5'],
    ['integer', '01'],
    ['number', 'x'],
    ['boolean', 'yes'],
    ['date', '2026-02-30'],
    ['date-time', 'noon'],
    ['duration', '10'],
    ['duration', 'P1M'],
    ['json', '{'],
  ])('%s does not take %s', async (type, text) =>
    expect((await inputs(`x: ${type}`, { x: text })).codes).toEqual(['input-wrong']),
  );
});

describe('defaults', () => {
  test.each([
    ['x: { type: date, default: "{today()}" }', '2026-05-23'],
    ['x: { type: date-time, default: "{now()}" }', '"2026-05-23T10:00:00Z"'],
    ['x: { type: duration, default: 2m }', '"2m"'],
    ['x: { type: json, default: { a: [1] } }', '{"a":[1]}'],
    ['y: { type: string, default: a }\nx: { type: string, default: "{y}b" }', 'ab'],
  ])('%s', async (yaml, value) => expect(shown((await inputs(yaml)).inputs.get('x'))).toBe(value));

  test('of a wrong type are told', async () => {
    expect((await inputs('x: { type: string, default: 5 }')).codes).toEqual(['input-wrong']);
    expect((await inputs('x: { type: string, default: c, choices: [a, b] }')).codes).toEqual(['not-a-choice']);
  });
});

describe('choices', () => {
  test('a value among them', async () =>
    expect((await inputs('x: { type: integer, choices: [1, 2] }', { x: '2' })).codes).toEqual([]));
  test('another is answered with the nearest', async () => {
    const { diagnostics } = await inputs('x: { type: string, choices: [north, south] }', { x: 'nort' });
    expect(diagnostics[0]).toMatchObject({ code: 'not-a-choice', advice: 'Did you mean "north"?' });
  });
});

test('missing ones are told all together, with how to give them', async () => {
  const { diagnostics, missing } = await inputs(
    'a: string\nb: { type: date, about: the day }\nc: { type: string, optional: true }',
  );
  expect(missing).toEqual(['a', 'b']);
  expect(diagnostics).toMatchObject([
    {
      code: 'input-missing',
      message: '2 inputs are missing: a, b (the day)',
      advice: 'Pass them: --input a=TEXT --input b=2026-05-23.',
    },
  ]);
});

test('a file gives values; the command line goes before it', async () => {
  const file = 'day: 2026-05-23\nn: 1.50\nlist: [1, 2]\n';
  const { inputs: found, codes } = await inputs('day: date\nn: number\nlist: json', { n: '2' }, file);
  expect(codes).toEqual([]);
  expect([...found].map(([name, value]) => [name, shown(value)])).toEqual([
    ['day', '2026-05-23'],
    ['n', '2'],
    ['list', '[1,2]'],
  ]);
});

test('what a file gives wrongly is told with its place there', async () => {
  const { diagnostics } = await inputs('n: number', {}, 'n: many\nother: 1\n');
  expect(diagnostics.map(({ code, file, range }) => [code, file.path, range])).toEqual([
    ['unknown-input', 'in.yaml', [15, 16]],
    ['input-wrong', 'in.yaml', [3, 7]],
  ]);
});

describe('numbers of a table with marks of their own', () => {
  const cells = async (form: string, cell: string) => {
    const { inputs: found, codes } = await inputs(
      `cargo: { type: table, columns: { t: number }, ${form} }`,
      {},
      `cargo: [{ t: "${cell}" }]\n`,
    );
    return codes[0] ?? JSON.stringify(shown(found.get('cargo')));
  };

  test.each([
    ["decimal: ','", '1,5', 1.5],
    ["decimal: ',', thousands: '.'", '1.234.567,25', 1234567.25],
    ["decimal: ',', thousands: '.'", '-12.000', -12000],
    ["thousands: ' '", '1 234.5', 1234.5],
    ['thousands: "\'"', "12'000", 12000],
    ["decimal: ','", '7', 7],
  ])('%s: %s', async (form, cell, value) => {
    expect(await cells(form, cell)).toBe(JSON.stringify(JSON.stringify([{ t: value }])));
  });

  test.each([
    ["decimal: ','", '1.5'],
    ["decimal: ',', thousands: '.'", '1.23,5'],
    ["decimal: ',', thousands: '.'", '1234.567'],
    ["decimal: ','", '1,2,3'],
    ["thousands: ','", '1,23'],
  ])('%s: %s is none', async (form, cell) => expect(await cells(form, cell)).toBe('invalid-cell'));
});
