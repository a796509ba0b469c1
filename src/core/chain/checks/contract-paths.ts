import type { Contract } from '../../contract/contract.ts';
import type { PlaceInFile } from '../../contract/documents.ts';
import type { Operation } from '../../contract/operation.ts';
import { Shaper, type Shapes } from '../../contract/shape-at.ts';
import type { Range } from '../../diagnostics/problem.ts';
import { didYouMean } from '../../diagnostics/suggest.ts';
import { findFunction } from '../../expression/functions/list.ts';
import { partsOf, ungrouped, type Node, type PathNode } from '../../expression/model.ts';
import { isJsonType } from '../../http/media-types.ts';
import { nameList } from '../../value/show.ts';

/** A path into a response that no schema of it can have. */
type Impossible = Readonly<{ range: Range; message: string; advice: string | undefined; at: PlaceInFile }>;

/**
 * Paths of an expression that the JSON responses of an operation can never have, by every status that is described: an API that
 * adds members without saying so is not what its description says.
 */
export function pathsThatCannotBe(
  tree: Node,
  text: string,
  contract: Contract,
  operation: Operation,
): readonly Impossible[] {
  const content = operation.responses.flatMap((each) => each.content);
  const json = content.filter(({ type }) => isJsonType(type));
  // A response of another form, or of no form that is described, may be anything.
  if (json.length === 0 || json.some(({ schema }) => !schema)) return [];
  const body = json.flatMap(({ schema }) => schema ?? []);
  return new Paths(new Shaper(contract.description), body, text).found(tree, []);
}

/**
 * What an operation's JSON responses have where a path or list leads; no shapes where that is not described. `items` are the
 * lists whose items `@` stands for, from the innermost.
 */
export function shapesAt(
  base: Node,
  items: readonly Node[],
  contract: Contract,
  operation: Operation,
): Readonly<{ shaper: Shaper; shapes: Shapes }> {
  const shaper = new Shaper(contract.description);
  const content = operation.responses.flatMap((each) => each.content).filter(({ type }) => isJsonType(type));
  const paths = new Paths(
    shaper,
    content.flatMap(({ schema }) => schema ?? []),
    '',
  );
  const item = items.reduceRight<Shapes>((outer, list) => shaper.items(paths.shapesOf(list, outer)) ?? [], []);
  return { shaper, shapes: paths.shapesOf(base, item) };
}

type Walked = Readonly<{ shapes: Shapes; problems: readonly Impossible[] }>;

const NOT_KNOWN: Walked = { shapes: [], problems: [] };

class Paths {
  constructor(
    private readonly shaper: Shaper,
    private readonly body: Shapes,
    private readonly text: string,
  ) {}

  /** `item` is what `@` stands for; no shapes where that is not known. */
  found(node: Node, item: Shapes): readonly Impossible[] {
    if (node.kind === 'path') return this.ofPath(node, item);
    if (node.kind !== 'call') return partsOf(node).flatMap((part) => this.found(part, item));
    const parameters = findFunction(node.name)?.parameters ?? [];
    const [list] = node.args;
    return node.args.flatMap((argument, i) => {
      const { sort } = parameters[i] ?? {};
      const isOverItems = sort === 'item' || sort === 'itemCondition';
      return this.found(argument, isOverItems ? (this.shaper.items(this.shapesOf(list, item)) ?? []) : item);
    });
  }

  private ofPath(path: PathNode, item: Shapes): readonly Impossible[] {
    const inner = path.start.kind === 'value' ? this.found(path.start.node, item) : [];
    const { problems } = this.walked(path, item);
    return [...inner, ...problems];
  }

  shapesOf(node: Node | undefined, item: Shapes): Shapes {
    const path = node && ungrouped(node);
    return path?.kind === 'path' ? this.walked(path, item).shapes : [];
  }

  private walked(path: PathNode, item: Shapes): Walked {
    let shapes = path.start.kind === 'body' ? this.body : path.start.kind === 'item' ? item : [];
    const problems: Impossible[] = [];
    for (const segment of path.segments) {
      for (const each of segment.selectors)
        if (each.kind === 'filter') problems.push(...this.found(each.condition, this.shaper.items(shapes) ?? []));
      const next = this.below(path, segment, shapes);
      shapes = next.shapes;
      problems.push(...next.problems);
    }
    return { shapes, problems };
  }

  /** What stands below shapes at one segment of a path. */
  private below(path: PathNode, { descends, selectors, range }: PathNode['segments'][number], shapes: Shapes): Walked {
    const [selector] = selectors;
    const [at] = shapes;
    if (descends || selectors.length !== 1 || !selector || !at) return NOT_KNOWN;
    if (selector.kind === 'name') {
      const found = this.shaper.member(shapes, selector.name);
      if (found.shapes) return { shapes: found.shapes, problems: [] };
      const message = `${this.before(path, range)} has no "${selector.name}" in the description`;
      const has = found.known.length > 0 ? `It has ${nameList(found.known)}.` : undefined;
      const advice = didYouMean(selector.name, found.known) ?? has;
      return { shapes: [], problems: [{ range, message, advice, at }] };
    }
    const items = this.shaper.items(shapes);
    // A wildcard and a filter go over the members of an object as well.
    const isOfLists = selector.kind === 'index' || selector.kind === 'slice';
    if (items || !isOfLists) return { shapes: items ?? [], problems: [] };
    const message = `${this.before(path, range)} is no array in the description`;
    return { shapes: [], problems: [{ range, message, advice: undefined, at }] };
  }

  /** The path up to a segment, as it is written. */
  private before(path: PathNode, [start]: Range): string {
    return this.text.slice(path.range[0], start).trim() || '$';
  }
}
