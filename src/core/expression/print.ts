import { escaped } from '../path/normalized.ts';
import { isName } from '../path/scanner.ts';
import type { Segment, Selector } from '../path/model.ts';
import { durationText } from '../value/json-write.ts';
import { Duration, type Value } from '../value/value.ts';
import type { Node } from './model.ts';

/** Writes an expression so that parsing it gives the same tree again, with one blank around each operator. */
export function printExpression(node: Node): string {
  switch (node.kind) {
    case 'literal':
      return printLiteral(node.value);
    case 'list':
      return `[${node.items.map(printExpression).join(', ')}]`;
    case 'path':
      return printStart(node.start) + node.segments.map(printSegment).join('');
    case 'call':
      return `${node.name}(${node.args.map(printExpression).join(', ')})`;
    case 'group':
      return `(${printExpression(node.inner)})`;
    case 'not':
      return `!${printExpression(node.operand)}`;
    case 'negative':
      return `-${printExpression(node.operand)}`;
    case 'binary':
      return `${printExpression(node.left)} ${node.operator} ${printExpression(node.right)}`;
  }
}

function printLiteral(value: Value): string {
  if (typeof value === 'string') return `'${escaped(value)}'`;
  if (value instanceof Duration) return durationText(value);
  return String(value);
}

function printStart(start: Extract<Node, { kind: 'path' }>['start']): string {
  switch (start.kind) {
    case 'body':
      return '$';
    case 'item':
      return '@';
    case 'name':
      return start.name;
    case 'value':
      return printExpression(start.node);
  }
}

function printSegment(segment: Segment<Node>): string {
  const only = segment.selectors.length === 1 ? segment.selectors[0]! : undefined;
  const dots = segment.descends ? '..' : '';
  if (only?.kind === 'wildcard') return `${dots || '.'}*`;
  if (only?.kind === 'name' && isName(only.name)) return `${dots || '.'}${only.name}`;
  return `${dots}[${segment.selectors.map(printSelector).join(', ')}]`;
}

function printSelector(selector: Selector<Node>): string {
  switch (selector.kind) {
    case 'name':
      return `'${escaped(selector.name)}'`;
    case 'index':
      return String(selector.index);
    case 'wildcard':
      return '*';
    case 'slice':
      return `${selector.start ?? ''}:${selector.end ?? ''}${selector.step === 1 ? '' : `:${selector.step}`}`;
    case 'filter':
      return `?${printExpression(selector.condition)}`;
  }
}
