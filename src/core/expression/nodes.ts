import type { Range } from '../diagnostics/problem.ts';
import type { Maybe } from '../value/value.ts';
import { ManyNodes, nodesAsText, NodeSet, XmlNode } from '../value/xml.ts';
import { fault } from './fault.ts';

/** Computes with nodes as texts; several nodes where one text is needed are an error of that part of the expression. */
export function withNodes(range: Range, compute: () => Maybe): Maybe {
  try {
    return compute();
  } catch (error) {
    if (error instanceof ManyNodes) return manyNodes(error, range);
    throw error;
  }
}

export function manyNodes({ message }: ManyNodes, range: Range): never {
  return fault('many-nodes', range, message, 'Use a narrower XPath ([1], a condition), or first(...).');
}

/** A side of a comparison: a node beside a text stands for its text. */
export function besideText(value: Maybe, other: Maybe, range: Range): Maybe {
  if (typeof other !== 'string' || !(value instanceof XmlNode || value instanceof NodeSet)) return value;
  return withNodes(range, () => nodesAsText(value));
}
