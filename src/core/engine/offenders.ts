import type { Source } from '../diagnostics/source.ts';
import { compileCondition } from '../expression/compile.ts';
import { evaluate, guarded, locate } from '../expression/evaluate.ts';
import { startOf } from '../expression/fault.ts';
import type { Frame } from '../expression/frame.ts';
import { partsOf, ungrouped, type CallNode, type Node } from '../expression/model.ts';
import { keysOf, writtenPath } from '../path/normalized.ts';
import { isList, type Maybe, type Value } from '../value/value.ts';
import { partsSeen, type Part } from './explain.ts';

const WHOLE = { range: [0, 0] } as const;

/** An item for which the condition of an `all(...)` did not hold: where it stands, and what its condition read there. */
type Offender = Readonly<{ number: number; place: string; parts: readonly Part[] }>;

/** The items that broke an `all(...)`: how many of how many, and the first few, those that found nothing before others. */
type Offenders = Readonly<{ count: number; of: number; first: readonly Offender[] }>;

const MAX_SHOWN = 5;

/** The offenders of the first `all(...)` in an expression that did not hold; `undefined` when there is none. */
export function offendersIn(tree: Node, source: Source, frame: Frame): Offenders | undefined {
  const call = allCalls(tree).find((each) => evaluate(each, frame).value !== true);
  if (!call) return undefined;
  const [listNode, condition] = call.args as readonly [Node, Node];
  const list = evaluate(listNode, frame).value;
  if (!isList(list)) return undefined;
  const test = compileCondition(condition);
  const outcomes = list.map((item): Maybe => guarded(() => test({ ...frame, item }), WHOLE).value);
  const failing = outcomes.flatMap((outcome, i) => (outcome === true ? [] : [i]));
  const missing = failing.filter((i) => outcomes[i] === undefined);
  const shown = [...missing, ...failing.filter((i) => outcomes[i] !== undefined)].slice(0, MAX_SHOWN);
  const places = placesOf(listNode, source, frame);
  const first = shown.map((i): Offender => {
    const inner: Frame = { ...frame, item: list[i] as Value };
    const parts = partsSeen(condition, source, inner).filter(({ text }) => text.startsWith('@'));
    return { number: i + 1, place: places?.[i] ?? `item ${i + 1}`, parts };
  });
  return { count: failing.length, of: list.length, first };
}

/** Calls of `all` that stand in an expression outside of other calls, and so decide it. */
function allCalls(node: Node): readonly CallNode[] {
  const inner = ungrouped(node);
  if (inner.kind === 'call') return inner.name === 'all' && inner.args.length === 2 ? [inner] : [];
  return inner.kind === 'path' ? [] : partsOf(inner).flatMap(allCalls);
}

/** The path of each item of a list that a path gave, as people write it. */
function placesOf(node: Node, source: Source, frame: Frame): readonly string[] | undefined {
  const inner = ungrouped(node);
  if (inner.kind !== 'path' || inner.start.kind === 'value') return undefined;
  const start = startOf(inner, source.text);
  const nodes = locate(inner, frame);
  if (nodes.length === 1 && isList(nodes[0]!.value)) {
    const keys = keysOf(nodes[0]!);
    return nodes[0]!.value.map((_, i) => writtenPath([...keys, i], start));
  }
  return nodes.map((each) => writtenPath(keysOf(each), start));
}
