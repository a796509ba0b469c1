import { looseSource } from '../../src/core/diagnostics/source.ts';
import { evaluate } from '../../src/core/expression/evaluate.ts';
import { frameOf } from '../../src/core/expression/frame.ts';
import { FillFault, fillJson, fillText, type Resolver } from '../../src/core/template/fill.ts';
import { parseRequestLine } from '../../src/core/template/request-line.ts';
import { fillTarget } from '../../src/core/template/target.ts';
import { parseTemplate, type ValueTemplate } from '../../src/core/template/template.ts';
import { Duration, ExactNumber, Mask, type Value } from '../../src/core/value/value.ts';

const names: Record<string, Value> = {
  vessel: { id: 'KM 204/5', name: 'Gråfjord', draught: new ExactNumber(1.1, '1.10') },
  day: '2026-05-23',
  tags: ['a', 'b c'],
  empty: '',
  none: null,
  up: '..',
  percent: '100%',
  wait: new Duration(1500),
  key: new Mask('KEY'),
  url: 'http://127.0.0.1:1/v1/jobs/J-1?x=%20',
};

const resolver: Resolver = {
  forRecord: false,
  leavesOut: ({ node }) => node.kind === 'path' && node.start.kind === 'name' && node.start.name === 'optional',
  value: (placeholder) =>
    evaluate(
      placeholder.node,
      frameOf(undefined, (name) => (Object.hasOwn(names, name) ? names[name] : undefined)),
    ).value,
};

const template = (text: string): ValueTemplate => parseTemplate(looseSource('test', text)).template;

/** The result, or the code and advice of what is wrong. */
const attempt = (fill: () => string | undefined): string => {
  try {
    return fill() ?? 'left out';
  } catch (error) {
    if (!(error instanceof FillFault)) throw error;
    return `${error.diagnostic.code}: ${error.diagnostic.message}. ${error.diagnostic.advice ?? ''}`;
  }
};

describe('text with placeholders', () => {
  test.each([
    ['due {day}', 'due 2026-05-23'],
    ['{{day}}', '{day}'],
    ['{{{day}}}', '{2026-05-23}'],
    ['{vessel.draught} m', '1.10 m'],
    ["{'}' + '{'}", '}{'],
    ['{key}!', '‹KEY›!'],
    [
      'a {wait}',
      'invalid-value: This placeholder is a duration, which cannot be part of a string. Divide it by its unit: d / 1s.',
    ],
    [
      'a {tags}',
      "invalid-value: This placeholder is an array, which cannot be part of a string. Write json(x), or joined(x, ', ').",
    ],
    [
      'a {none}',
      "invalid-value: This placeholder is null, which cannot be part of a string. Write x ?? 'something' for a value that may be null.",
    ],
    ['a {gone}', 'found-nothing: gone found nothing. Write {gone ?? ...} with a value for that case.'],
  ])('%s', (text, expected) => {
    const parsed = template(text);
    expect(attempt(() => (parsed.kind === 'text' ? fillText(parsed, resolver) : ''))).toBe(expected);
  });

  test.each([
    ['{a', 'invalid-placeholder'],
    ['a}', 'invalid-placeholder'],
    ['{"a": 1}', 'invalid-placeholder'],
    ['{a b}', 'invalid-placeholder'],
  ])('%s does not parse', (text, code) => {
    expect(parseTemplate(looseSource('test', text)).problems.map((problem) => problem.code)).toEqual([code]);
  });
});

describe('JSON keeps kinds', () => {
  test.each<[string, string]>([
    ['{vessel.draught}', '1.10'],
    ['{tags}', '["a","b c"]'],
    ['{vessel}', '{"id":"KM 204/5","name":"Gråfjord","draught":1.10}'],
    ['{none}', 'null'],
    ['{key}', '"‹KEY›"'],
    ['{optional}', 'left out'],
    [' {vessel.draught}', '" 1.10"'],
    [
      '{wait}',
      'invalid-value: This placeholder is a duration, which JSON cannot represent. Divide it by its unit: d / 1s.',
    ],
  ])('%s', (text, expected) => expect(attempt(() => fillJson(template(text), resolver))).toBe(expected));

  test('members stay in the order written, also those that look like numbers', () => {
    const members = ['b', '10', '2', 'a'].map((name) => [name, { kind: 'constant', value: 1 }] as const);
    expect(fillJson({ kind: 'object', members }, resolver)).toBe('{"b":1,"10":1,"2":1,"a":1}');
  });
});

describe('targets', () => {
  test.each([
    ['GET /vessels/{vessel.id}', '/vessels/KM%20204%2F5'],
    ['GET /vessels/{vessel.name}', '/vessels/Gr%C3%A5fjord'],
    ['GET /x/{percent}', '/x/100%25'],
    ['GET /a b'.replace(' b', '%20b'), '/a%20b'],
    ['GET /å', '/%C3%A5'],
    ['GET /x{?day,tags*}', '/x?day=2026-05-23&tags=a&tags=b%20c'],
    ['GET /x{?vessel.id}', '/x?vessel.id=KM%20204%2F5'],
    ['GET /x{?optional,day}', '/x?day=2026-05-23'],
    ['GET /x{/tags*}', '/x/a/b%20c'],
    ['GET /x/{tags[1]}', '/x/b%20c'],
    ["GET /x/{'a' + '/b'}", '/x/a%2Fb'],
    ["GET /x/{+'a/' + 'b'}", '/x/a/b'],
    ['GET /x/{key}', '/x/‹KEY›'],
    ['GET {url}', 'http://127.0.0.1:1/v1/jobs/J-1?x=%20'],
    ['GET {+url}', 'http://127.0.0.1:1/v1/jobs/J-1?x=%20'],
    ['GET http://127.0.0.1:1/v1/{day}', 'http://127.0.0.1:1/v1/2026-05-23'],
  ])('%s', (line, expected) => {
    const parsed = parseRequestLine(looseSource('test', line));
    expect(parsed.problems).toEqual([]);
    expect(attempt(() => fillTarget(parsed.line!.target, resolver))).toBe(expected);
  });

  test.each([
    ['GET /x/{empty}', 'invalid-value'],
    ['GET /x/{none}', 'invalid-value'],
    ['GET /x/{gone}', 'found-nothing'],
    ['GET /x/{optional}', 'found-nothing'],
    ['GET /x{?gone}', 'found-nothing'],
    ['GET /x/{up}', 'invalid-value'],
    ['GET /x/{up}/y', 'invalid-value'],
    ["GET /x/{+'%2e'}", 'invalid-value'],
    ['GET /x/{vessel}/{wait}', 'invalid-value'],
    ['GET {day} '.trim() + '{day}', 'invalid-target'],
    ['GET {percent}', ''],
  ])('%s would hit another resource, and is refused', (line, code) => {
    const { line: parsed, problems } = parseRequestLine(looseSource('test', line));
    const found = problems[0]?.code ?? attempt(() => fillTarget(parsed!.target, resolver)).split(':')[0];
    expect(found).toBe(code === '' ? '100%' : code);
  });

  test.each([
    ['/vessels', 'no-method'],
    ['get /vessels', 'no-method'],
    ['GET', 'no-method'],
    ['GET vessels', 'invalid-target'],
    ['GET /a b', 'space-in-target'],
    ['GET /a/{{id}}', 'doubled-brace'],
    ['GET /a/{=id}', 'reserved-sign'],
    ['GET /a{?due[0].id}', 'parameter-unnamed'],
    ['GET http://{host}/a', 'invalid-target'],
    ['GET /a/{b', 'invalid-placeholder'],
  ])('%s is refused as %s', (line, code) => {
    expect(parseRequestLine(looseSource('test', line)).problems.map((problem) => problem.code)).toContain(code);
  });
});
