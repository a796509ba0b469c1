import type { Value } from '../value/value.ts';
import type { Frame } from './frame.ts';
import { isComparison, ungrouped, type Node, type PathNode } from './model.ts';

/** Goes over a list and puts the items that pass a filter into another. */
type FilterLoop = (items: readonly Value[], frame: Frame, found: Value[]) => void;

type Slow = (item: Value, frame: Frame) => boolean;

/**
 * Most filters compare members of the item with constants and names. For those a loop is generated as JavaScript, in
 * which the engine sees the members by name, as in a loop written by hand: three to five times as fast as calling
 * functions for each part. An item that is not plainly of the expected form is left to the general test, `slow`, so
 * the loop decides nothing by rules of its own. Only what the expression itself says gets into the source, names and
 * literals as JSON texts; data never do. `undefined` for a filter of another form.
 */
export function generateFilter(condition: Node, outer: readonly PathNode[], slow: Slow): FilterLoop | undefined {
  const parts: Parts = { reads: [], outer, slots: new Set() };
  const test = testSource(condition, parts);
  if (test === undefined || parts.reads.length === 0) return undefined;
  const { reads, slots } = parts;
  const source = `
    ${[...slots].map((slot) => `const o${slot} = frame.outer[${slot}];`).join('')}
    ${[...slots].map((slot) => `if (typeof o${slot} !== 'string') return general(items, frame, found);`).join('')}
    for (let i = 0; i < items.length; i++) {
      const item = items[i];
      let ${reads.map((_, k) => `v${k}, w${k}`).join(', ')};
      if (${reads.map(guardSource).join(' && ')} ? ${test} : slow(item, frame)) found.push(item);
    }`;
  const general: FilterLoop = (items, frame, found) => {
    for (const item of items) if (slow(item, frame)) found.push(item);
  };
  let generated: FilterLoop | undefined;
  return (items, frame, found) => {
    if (!generated && items.length < WORTH_GENERATING) general(items, frame, found);
    else (generated ??= make(source, slow, general))(items, frame, found);
  };
}

/** Items from which generating a loop costs less than it saves. */
const WORTH_GENERATING = 200;

function make(source: string, slow: Slow, general: FilterLoop): FilterLoop {
  const factory = new Function('slow', 'general', `return (items, frame, found) => {${source}};`) as (
    ...given: unknown[]
  ) => FilterLoop;
  return factory(slow, general);
}

/** A member of the item, by its names, and the kind that it is expected to have. */
type Read = Readonly<{ names: readonly string[]; kind: 'string' | 'number' }>;
type Parts = { reads: Read[]; outer: readonly PathNode[]; slots: Set<number> };

const OPERATORS: Readonly<Record<string, string>> = {
  '==': '===',
  '!=': '!==',
  '<': '<',
  '<=': '<=',
  '>': '>',
  '>=': '>=',
};

// eslint-disable-next-line complexity -- a case for each kind of node
function testSource(given: Node, parts: Parts): string | undefined {
  const node = ungrouped(given);
  if (node.kind !== 'binary') return undefined;
  const { operator } = node;
  if (operator === '&&' || operator === '||') {
    const [left, right] = [testSource(node.left, parts), testSource(node.right, parts)];
    return left === undefined || right === undefined ? undefined : `(${left} ${operator} ${right})`;
  }
  if (!isComparison(operator) || operator === 'in') return undefined;
  const names = memberNames(ungrouped(node.left));
  const right = ungrouped(node.right);
  if (!names) return undefined;
  // Order of texts is by Unicode scalar values, which is not how the language compares them.
  const isEquality = operator === '==' || operator === '!=';
  if (
    right.kind === 'literal' &&
    (typeof right.value === 'number' || (typeof right.value === 'string' && isEquality))
  ) {
    const kind = typeof right.value as Read['kind'];
    const value = `v${parts.reads.push({ names, kind }) - 1}`;
    return `${value} ${OPERATORS[operator]} ${JSON.stringify(right.value)}`;
  }
  const slot = right.kind === 'path' ? parts.outer.indexOf(right) : -1;
  if (slot < 0 || !isEquality) return undefined;
  parts.slots.add(slot);
  return `v${parts.reads.push({ names, kind: 'string' }) - 1} ${OPERATORS[operator]} o${slot}`;
}

/** The names of a path such as `@.vessel.flag`; no path whose members objects could inherit. */
function memberNames(node: Node): readonly string[] | undefined {
  if (node.kind !== 'path' || node.start.kind !== 'item' || node.segments.length === 0) return undefined;
  const names: string[] = [];
  for (const { descends, selectors } of node.segments) {
    const [selector] = selectors;
    if (descends || selectors.length !== 1 || selector?.kind !== 'name' || selector.name in Object.prototype)
      return undefined;
    names.push(selector.name);
  }
  return names;
}

/** Reads a member into `v`, going through plain objects in `w`; true when each was one and the value is of its kind. */
function guardSource({ names, kind }: Read, k: number): string {
  const plain = (variable: string) =>
    `typeof ${variable} === 'object' && ${variable} !== null && ${variable}.constructor === Object`;
  const steps = names.map((name, i) => {
    const from = i === 0 ? 'item' : `w${k}`;
    const into = i === names.length - 1 ? `v${k}` : `w${k}`;
    return `${plain(from)} && (${into} = ${from}[${JSON.stringify(name)}], true)`;
  });
  return `${steps.join(' && ')} && typeof v${k} === '${kind}'`;
}
