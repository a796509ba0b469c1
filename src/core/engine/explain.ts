import { evaluate, locate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import { startOf } from '../expression/fault.ts';
import { partsOf, type Node, type PathNode } from '../expression/model.ts';
import type { Source } from '../diagnostics/source.ts';
import { explainMiss } from '../path/miss.ts';
import type { Maybe } from '../value/value.ts';

/** A path or name of an expression, with the value that it had. */
export type Part = Readonly<{ node: PathNode; text: string; value: Maybe }>;

/** The paths and names outside of filters that an expression is made of, each once, with their values. */
export function partsSeen(tree: Node, source: Source, frame: Frame): readonly Part[] {
  const parts = new Map<string, Part>();
  const visit = (node: Node): void => {
    if (node.kind === 'path' && node.start.kind !== 'value') {
      const text = source.text.slice(...node.range);
      if (!parts.has(text)) parts.set(text, { node, text, value: evaluate(node, frame).value });
    }
    if (node.kind === 'path' && node.start.kind !== 'value') outerNames(node).forEach(visit);
    else partsOf(node).forEach(visit);
  };
  visit(tree);
  return [...parts.values()];
}

/** Names from outside that the filters of a path read. */
function outerNames(path: PathNode): readonly PathNode[] {
  const found: PathNode[] = [];
  const visit = (node: Node): void => {
    if (node.kind === 'path' && node.start.kind === 'name') found.push(node);
    partsOf(node).forEach(visit);
  };
  partsOf(path).forEach(visit);
  return found;
}

/** Why the whole of an expression was nothing: the first path in it that found nothing, and how far it got. */
export function explainNothing(
  tree: Node,
  source: Source,
  frame: Frame,
): Readonly<{ message: string; advice?: string; part?: Part }> {
  const part = partsSeen(tree, source, frame).find(({ value }) => value === undefined);
  if (!part) return { message: `${source.text} found nothing` };
  const { node, text } = part;
  const start = startOf(node, source.text);
  const root = evaluate({ ...node, segments: [] }, frame).value;
  if (root === undefined) {
    const why = start === '$' ? 'the response has no body' : `${start} was not bound in this run`;
    return { message: `${text} found nothing: ${why}`, part };
  }
  const found = (segments: PathNode['segments']) => locate({ ...node, segments }, frame);
  const miss = explainMiss(start, root, node.segments, found);
  return {
    message: `${text} found nothing: ${miss.there}`,
    ...(miss.nearest === undefined ? {} : { advice: `${miss.nearest} is there.` }),
    part,
  };
}
