import { readFileSync } from 'node:fs';
import path from 'node:path';
import { evaluate } from '../../src/core/expression/evaluate.ts';
import { frameOf } from '../../src/core/expression/frame.ts';
import { looseSource } from '../../src/core/diagnostics/source.ts';
import { parseRequestLine } from '../../src/core/template/request-line.ts';
import { expand } from '../../src/core/template/uri-template.ts';
import type { Value } from '../../src/core/value/value.ts';

type Suite = Record<string, { variables: Record<string, Value>; testcases: [string, string | string[] | false][] }>;

const load = (name: string) =>
  JSON.parse(readFileSync(path.join(__dirname, '../fixtures/uri-template', name), 'utf8')) as Suite;

/** Parses with the product's own target parser; what is under test is RFC 6570 without our stricter rules. */
function expandTemplate(template: string, variables: Record<string, Value>): string {
  const { line, problems } = parseRequestLine(looseSource('template', `GET ${template}`));
  expect(problems.filter((problem) => problem.code !== 'invalid-target')).toEqual([]);
  const frame = frameOf(undefined, (name) => (Object.hasOwn(variables, name) ? variables[name] : undefined));
  return line!.target.parts
    .map((part) => {
      if (part.kind === 'literal') return part.text;
      if (part.kind === 'placeholder') throw new Error('not an RFC 6570 expression');
      return expand(
        part.operator,
        part.variables.map((each) => [each, evaluate(each.placeholder.node, frame).value]),
      );
    })
    .join('');
}

describe.each(['spec-examples.json', 'spec-examples-by-section.json'])('RFC 6570, %s', (file) => {
  const cases = Object.entries(load(file)).flatMap(([section, { variables, testcases }]) =>
    testcases.map(([template, expected]) => [`${section}: ${template}`, template, variables, expected] as const),
  );
  test.each(cases)('%s', (_name, template, variables, expected) => {
    expect([expected].flat()).toContain(expandTemplate(template, variables));
  });
});
