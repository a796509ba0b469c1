import { readFileSync } from 'node:fs';
import path from 'node:path';
import { evaluate, locate } from '../../src/core/expression/evaluate.ts';
import { frameOf } from '../../src/core/expression/frame.ts';
import { parsePath } from '../../src/core/expression/parse.ts';
import { isSingular } from '../../src/core/path/model.ts';
import { normalizedPath } from '../../src/core/path/normalized.ts';
import type { Value } from '../../src/core/value/value.ts';

type Case = {
  name: string;
  selector: string;
  document?: Value;
  result?: Value[];
  results?: Value[][];
  result_paths?: string[];
  results_paths?: string[][];
  invalid_selector?: boolean;
};

const file = path.join(__dirname, '../fixtures/jsonpath/cases.json');
const { tests } = JSON.parse(readFileSync(file, 'utf8')) as { tests: Case[] };

describe('JSONPath compliance suite, RFC 9535', () => {
  test.each(tests.map((each) => [each.name, each] as const))('%s', (_name, each) => {
    const { tree, problems } = parsePath(each.selector);
    if (each.invalid_selector) {
      expect(problems).not.toEqual([]);
      return;
    }
    expect(problems).toEqual([]);
    const frame = frameOf(each.document, () => undefined);
    const nodes = locate(tree!, frame);
    expect(each.results ?? [each.result]).toContainEqual(nodes.map((node) => node.value));
    expect(each.results_paths ?? [each.result_paths]).toContainEqual(nodes.map(normalizedPath));
    const { value } = evaluate(tree!, frame);
    const values = !isSingular(tree!.segments) ? value : value === undefined ? [] : [value];
    expect(each.results ?? [each.result]).toContainEqual(values);
  });
});
