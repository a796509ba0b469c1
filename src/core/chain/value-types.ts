import { findFunction } from '../expression/functions/list.ts';
import { ungrouped, type Node } from '../expression/model.ts';
import { isCondition } from '../expression/typing.ts';
import { typeOf, type ValueType } from '../value/value.ts';
import type { InputType } from './model.ts';
import { RESPONSE_NAMES, type Names } from './names.ts';

/** The kind of an expression's value as far as literals, functions, inputs and response names say; else unknown. */
export function typeOfTree(tree: Node | undefined, names: Names, response: boolean): ValueType | undefined {
  if (!tree) return undefined;
  if (isCondition(tree)) return 'boolean';
  const node = ungrouped(tree);
  const of = (each: Node) => typeOfTree(each, names, response);
  switch (node.kind) {
    case 'literal':
      return typeOf(node.value);
    case 'list':
      return 'array';
    case 'call':
      return findFunction(node.name)?.result as ValueType | undefined;
    case 'negative':
      return of(node.operand);
    case 'path':
      return typeOfPath(node, names, response);
    case 'binary':
      return typeOfBinary(node, of);
    default:
      return undefined;
  }
}

function typeOfPath({ start, segments }: Extract<Node, { kind: 'path' }>, names: Names, response: boolean) {
  if (start.kind !== 'name') return undefined;
  if (segments.length === 0) {
    if (response && RESPONSE_NAMES.has(start.name)) return RESPONSE_NAMES.get(start.name);
    return names.get(start.name)?.kind;
  }
  const selector = segments.length === 1 ? segments[0]!.selectors[0] : undefined;
  if (selector?.kind !== 'name') return undefined;
  if (start.name === 'response') return RESPONSE_NAMES.get(selector.name);
  // Header fields and secrets are texts, whatever they look like.
  return (response && (start.name === 'headers' || start.name === 'cookies')) || start.name === 'secret'
    ? 'string'
    : undefined;
}

function typeOfBinary(
  { operator, left, right }: Extract<Node, { kind: 'binary' }>,
  of: (node: Node) => ValueType | undefined,
): ValueType | undefined {
  const [a, b] = [of(left), of(right)];
  switch (operator) {
    case '??':
      return a === b ? a : undefined;
    case '+':
      return a === b && (a === 'number' || a === 'string' || a === 'duration') ? a : a === 'date-time' ? a : undefined;
    case '-':
      if (a === 'date-time') return b === 'date-time' ? 'duration' : b === 'duration' ? 'date-time' : undefined;
      return a === b ? a : undefined;
    case '*':
    case '/':
    case '%':
      return a === 'number' && b === 'number' ? 'number' : undefined;
    default:
      return undefined;
  }
}

/** The kind of an input's value, where its type says it. */
export const TYPE_OF_INPUT: Readonly<Record<InputType, ValueType | undefined>> = {
  string: 'string',
  integer: 'number',
  number: 'number',
  boolean: 'boolean',
  date: 'string',
  'date-time': 'date-time',
  duration: 'duration',
  json: undefined,
  secret: 'string',
  file: 'string',
  table: 'array',
};
