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
  const { name } = start;
  if (segments.length === 0)
    return response && RESPONSE_NAMES.has(name) ? RESPONSE_NAMES.get(name) : names.get(name)?.kind;
  const selector = segments.length === 1 ? segments[0]!.selectors[0] : undefined;
  return selector?.kind === 'name' ? typeOfMember(name, selector.name, response) : undefined;
}

function typeOfMember(of: string, member: string, response: boolean): ValueType | undefined {
  if (of === 'response') return RESPONSE_NAMES.get(member);
  // Header fields and secrets are texts, whatever they look like.
  const isText = of === 'secret' || (response && (of === 'headers' || of === 'cookies'));
  return isText ? 'string' : undefined;
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
      return a === 'date-time' || (a === b && a !== undefined && ADDED.has(a)) ? a : undefined;
    case '-':
      if (a === 'date-time') return DIFFERENCE_FROM_TIME.get(b);
      return a === b ? a : undefined;
    case '*':
    case '/':
    case '%':
      return a === 'number' && b === 'number' ? 'number' : undefined;
    default:
      return undefined;
  }
}

/** Types of which two make one of the same by `+`. */
const ADDED: ReadonlySet<ValueType> = new Set(['number', 'string', 'duration']);

/** What is left of a time without another time, or without a duration. */
const DIFFERENCE_FROM_TIME: ReadonlyMap<ValueType | undefined, ValueType> = new Map([
  ['date-time', 'duration'],
  ['duration', 'date-time'],
] as const);

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
