import type { ExpectRecord } from '../../src/core/journal/records.ts';
import { chainOf, coreRun, type CoreOptions } from '../support/engine.ts';

const FILES: Readonly<Record<string, string>> = {
  'job.schema.json':
    '{"type": "object", "required": ["id"], "properties": {"percent": {"maximum": 100}, "state": {"$ref": "state.json"}}}',
  'state.json': '{"enum": ["queued", "cleared"]}',
  'job.json': '{"id": "J-1", "percent": 50, "at": "yesterday", "token": "‹TOKEN›"}',
  'plain.txt': 'moored',
  'broken.json': '{',
};

const readFile = (path: string) =>
  FILES[path] === undefined
    ? { message: `The file ${path} is not there` }
    : { bytes: new TextEncoder().encode(FILES[path]) };

/** Judges one expectation on a body; gives its record. */
async function judged(
  expectation: string,
  body: string,
  options: CoreOptions & { type?: string } = {},
): Promise<ExpectRecord> {
  const steps = `- call: job\n  request: GET /job\n  expect:\n    - status == 200\n    - ${expectation.replaceAll('\n', '\n      ')}`;
  const answer = { body, ...(options.type === undefined ? {} : { type: options.type }) };
  const { events } = await coreRun(chainOf(steps), { host: { readFile }, ...options, answers: [answer] });
  const ended = events.find((event) => event.type === 'ended')!;
  return (ended as { expects: ExpectRecord[] }).expects[1]!;
}

const places = ({ places: found }: ExpectRecord) => found?.first.map(({ path, text }) => `${path} ${text}`) ?? [];

describe('fits', () => {
  test.each([
    ['holds', 'schema: job.schema.json', '{"id": 1, "percent": 100, "state": "queued"}', []],
    ['a member is missing', 'schema: job.schema.json', '{}', ['$ must have the member "id" (schema #/required)']],
    [
      'several places, a schema beside it too',
      'schema: job.schema.json',
      '{"id": 1, "percent": 101, "state": "lost"}',
      [
        '$.percent must be <= 100, not 101 (schema #/properties/percent/maximum)',
        '$.state must be one of "queued","cleared", not \'lost\' (schema state.json/enum)',
      ],
    ],
    [
      'inline, in a list',
      'schema: { items: { type: integer } }',
      '[1, "2"]',
      ["$[1] must be integer, not '2' (schema #/items/type)"],
    ],
    ['exact numbers', 'schema: { type: number, maximum: 2 }', '1.10', []],
    [
      'formats',
      'schema: { format: date }',
      '"2026-13-01"',
      ['$ must match format "date", not \'2026-13-01\' (schema #/format)'],
    ],
  ])('%s', async (_name, expectation, body, expected) => {
    const record = await judged(expectation, body);
    expect(places(record)).toEqual(expected);
    expect(record.passed).toBe(expected.length === 0);
  });
});

describe('includes', () => {
  test.each([
    ['holds', 'includes: { a: { b: 1 } }', '{"a": {"b": 1, "c": 2}, "d": 3}', []],
    ['another value', 'includes: { a: 1 }', '{"a": 2}', ['$.a expected 1, found 2']],
    ['another kind', 'includes: { a: 1 }', '{"a": "1"}', ["$.a expected 1, found '1' (a number and a string)"]],
    ['a member is missing', 'includes: { a: null }', '{}', ['$.a expected null, found nothing']],
    [
      'lists item by item',
      'includes: [{ a: 1 }, { a: 2 }]',
      '[{"a": 1, "b": 0}, {"a": 3}]',
      ['$[1].a expected 2, found 3'],
    ],
    ['lists of another length', 'includes: [1]', '[1, 2]', ['$ 1 item expected, found 2']],
  ])('%s', async (_name, expectation, body, expected) => {
    expect(places(await judged(expectation, body))).toEqual(expected);
  });

  test('placeholders are filled', async () => {
    const chain = chainOf('- let: { n: 4 }\n- call: a\n  request: GET /a\n  expect:\n    - includes: { n: "{n}" }');
    expect((await coreRun(chain, { answers: [{ body: '{"n": 4}' }] })).exit).toBe(0);
  });
});

describe('equals', () => {
  test.each([
    ['a value, whatever the order', 'equals: { a: 1, b: [2] }', '{"b": [2.0], "a": 1}', [], 'application/json'],
    ['a member too many', 'equals: { a: 1 }', '{"a": 1, "b": 2}', ['$.b not expected, found 2'], 'application/json'],
    [
      'a file, but for a path',
      'equals: job.json\nexcept: [$.at, $.token]',
      '{"id": "J-1", "percent": 60, "at": "now", "token": 1}',
      ['$.percent expected 50, found 60'],
      'application/json',
    ],
    [
      'absence at an excepted place',
      'equals: job.json\nexcept: [$.at, $.token, $.percent]',
      '{"id": "J-1"}',
      [],
      'application/json',
    ],
    ['a text file', 'equals: plain.txt', 'moored', [], 'text/plain'],
  ])('%s', async (_name, expectation, body, expected, type) => {
    expect(places(await judged(expectation, body, { type }))).toEqual(expected);
  });

  test('a mask in the file equals the secret that it stands for', async () => {
    const record = await judged(
      'equals: job.json',
      '{"id": "J-1", "percent": 50, "at": "yesterday", "token": "hush-hush-9"}',
      {
        secrets: { TOKEN: 'hush-hush-9' },
      },
    );
    expect(record.passed).toBe(true);
  });

  test('except that finds nothing is told', async () => {
    const chain = chainOf('- call: a\n  request: GET /a\n  expect:\n    - equals: { a: 1 }\n      except: [$.b]');
    expect((await coreRun(chain, { answers: [{ body: '{"a": 1}' }] })).codes).toEqual(['except-finds-nothing']);
  });

  test('a file that is no JSON cannot be evaluated', async () => {
    expect(await judged('equals: broken.json', '{}')).toMatchObject({ passed: false, code: 'not-decodable' });
  });

  test('no body equals nothing', async () => {
    expect(await judged('equals: { a: 1 }', '')).toMatchObject({ passed: false, code: 'found-nothing' });
  });
});

describe('accepting', () => {
  const written: Record<string, string> = {};
  const accept =
    (yes: boolean) =>
    async ({ file, content }: { file: string; content: string | Uint8Array }) => {
      if (yes) written[file] = String(content);
      return yes;
    };

  test('yes writes the response masked, excepted places as they were, and the entry holds', async () => {
    const record = await judged(
      'equals: job.json\nexcept: [$.at]',
      '{"id": "J-2", "at": "now", "token": "hush-hush-9", "n": 1.10}',
      {
        accept: accept(true),
        secrets: { TOKEN: 'hush-hush-9' },
      },
    );
    expect(record).toMatchObject({ passed: true, accepted: true });
    expect(written['job.json']).toBe(
      '{\n  "id": "J-2",\n  "at": "yesterday",\n  "token": "‹TOKEN›",\n  "n": 1.10\n}\n',
    );
  });

  test('a missing file is written', async () => {
    expect(await judged('equals: fresh.json', '[1]', { accept: accept(true) })).toMatchObject({ passed: true });
    expect(written['fresh.json']).toBe('[\n  1\n]\n');
  });

  test('no leaves everything as it is', async () => {
    expect(await judged('equals: job.json', '{}', { accept: accept(false) })).toMatchObject({ passed: false });
  });
});
