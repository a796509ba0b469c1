import { evaluate, type Outcome } from '../../src/core/expression/evaluate.ts';
import { frameOf } from '../../src/core/expression/frame.ts';
import { parseExpression } from '../../src/core/expression/parse.ts';
import { testHost } from './hosts.ts';
import type { Maybe, Value } from '../../src/core/value/value.ts';

/** Parses and evaluates an expression over a body and names; fails the test when it does not parse. */
export function evaluated(text: string, body?: Maybe, names: Readonly<Record<string, Value>> = {}): Outcome {
  const { tree, problems } = parseExpression(text);
  expect(problems).toEqual([]);
  return evaluate(
    tree!,
    frameOf(body, (name) => (Object.hasOwn(names, name) ? names[name] : undefined), testHost()),
  );
}

/** The part of a text that a range takes in. */
export function part(text: string, [from, to]: readonly [number, number]): string {
  return text.slice(from, to);
}
