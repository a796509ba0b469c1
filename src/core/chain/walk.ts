import type { Range } from '../diagnostics/problem.ts';
import type { Source, SourceFile } from '../diagnostics/source.ts';
import { filtersOf, partsOf, ungrouped, type Node } from '../expression/model.ts';
import { isCondition } from '../expression/typing.ts';
import { findFunction } from '../expression/functions/list.ts';
import type { Endpoint, RequestTemplate } from '../http/endpoint.ts';
import type { Expression } from '../schema/leaves.ts';
import { targetHoles } from '../template/request-line.ts';
import { textsOf, type TextTemplate } from '../template/template.ts';
import type { Kind } from '../value/value.ts';
import type { CallStep, Chain, Step, Take } from './model.ts';
import type { NameInfo, Names } from './names.ts';

/** Where an expression or a text stands. */
export type Place = Readonly<{
  names: Names;
  /** Whether it is a hole in a text, where words need no quotes of their own around them. */
  hole: boolean;
  /** Whether it is in a response key of a call. */
  response: boolean;
  role: 'value' | 'condition';
  /** The call that it belongs to. */
  step: string | undefined;
  /** The api whose settings `setting.NAME` means there; `undefined` when that is not known. */
  endpoint: Endpoint | undefined;
}>;

/** A name that is about to be bound, and the names that there are already. */
export type Binding = Readonly<{
  name: string;
  range: Range;
  file: SourceFile;
  names: Names;
  what: 'input' | 'keep' | 'let';
}>;

/** What a rule wants to see. Each handler is called once for each thing of its sort, in the order of the file. */
export type Visitor = Readonly<{
  take?(take: Take): void;
  call?(step: CallStep, place: Place): void;
  binding?(binding: Binding): void;
  expression?(tree: Node, source: Source, place: Place): void;
  text?(template: TextTemplate, place: Place): void;
}>;

/** What the walk needs to know of the surroundings. */
export type Surroundings = Readonly<{
  /** The endpoint of a call's api, or of the chain's default when the call names none. */
  endpointOf(api: Source | undefined): Endpoint | undefined;
}>;

/**
 * Goes through a chain once, for all visitors together, keeping account of which names there are where. The names that
 * a handler is given are those of that moment: a visitor reads them and does not hold on to them.
 */
export function walkChain(chain: Chain, surroundings: Surroundings, visitors: readonly Visitor[]): void {
  new Walk(chain, surroundings, visitors).run();
}

class Walk {
  private readonly names = new Map<string, NameInfo>();
  constructor(
    private readonly chain: Chain,
    private readonly surroundings: Surroundings,
    private readonly visitors: readonly Visitor[],
  ) {}

  run(): void {
    const { chain } = this;
    const endpoint = this.surroundings.endpointOf(chain.api);
    for (const take of chain.takes) {
      for (const visitor of this.visitors) visitor.take?.(take);
      if (take.default) this.texts(textsOf(take.default), this.place(endpoint));
      this.bind(take.name, take.nameRange, 'input', {
        by: 'an input',
        kind: take.type === 'boolean' ? 'boolean' : undefined,
        optional: take.optional,
      });
    }
    for (const step of chain.steps) this.step(step);
    for (const { value } of chain.gives) this.expression(value, this.place(endpoint));
  }

  private step(step: Step): void {
    if (step.kind === 'broken') {
      for (const name of step.binds) this.names.set(name, { by: 'a broken step', kind: undefined, optional: false });
      return;
    }
    if (step.kind === 'let') {
      const place = this.place(this.surroundings.endpointOf(undefined));
      for (const { name, nameRange, value } of step.names) {
        this.expression(value, place);
        this.bind(name, nameRange, 'let', { by: 'computed by let', kind: kindOfTree(value.tree), optional: false });
      }
      return;
    }
    if (step.kind === 'say') {
      this.texts([step.text], this.place(this.surroundings.endpointOf(undefined)));
      return;
    }
    const endpoint = this.surroundings.endpointOf(step.api);
    const place = this.place(endpoint, step.name);
    for (const visitor of this.visitors) visitor.call?.(step, place);
    this.request(step.request, place);
    const response: Place = { ...place, response: true };
    for (const { expression } of step.expect) this.expression(expression, { ...response, role: 'condition' });
    for (const { name, nameRange, value } of step.keep) {
      this.expression(value, response);
      this.bind(name, nameRange, 'keep', { by: `kept by ${step.name}`, kind: kindOfTree(value.tree), optional: false });
    }
  }

  private request({ line, query, headers, body, auth }: RequestTemplate, place: Place): void {
    for (const hole of line ? targetHoles(line.target) : [])
      this.tree(hole.node, hole.source, { ...place, hole: true });
    for (const { value } of [...query, ...headers]) this.texts(textsOf(value), place);
    this.texts(body?.texts ?? [], place);
    if (auth !== undefined && auth !== 'none') this.texts(auth.texts, place);
  }

  private texts(templates: readonly TextTemplate[], place: Place): void {
    for (const template of templates) {
      for (const visitor of this.visitors) visitor.text?.(template, place);
      for (const piece of template.pieces) {
        if (typeof piece !== 'string') this.tree(piece.node, piece.source, { ...place, hole: true });
      }
    }
  }

  private expression({ tree, source }: Expression, place: Place): void {
    if (tree) this.tree(tree, source, place);
  }

  private tree(tree: Node, source: Source, place: Place): void {
    for (const visitor of this.visitors) visitor.expression?.(tree, source, place);
  }

  private bind(name: string, range: Range, what: Binding['what'], info: NameInfo): void {
    const binding: Binding = { name, range, file: this.chain.file, names: this.names, what };
    for (const visitor of this.visitors) visitor.binding?.(binding);
    this.names.set(name, info);
  }

  private place(endpoint: Endpoint | undefined, step?: string): Place {
    return { names: this.names, hole: false, response: false, role: 'value', step, endpoint };
  }
}

/** The kind of an expression's value as far as its form says it. */
function kindOfTree(tree: Node | undefined): Kind | undefined {
  if (!tree) return undefined;
  if (isCondition(tree)) return 'boolean';
  const inner = ungrouped(tree);
  if (inner.kind !== 'call') return undefined;
  const result = findFunction(inner.name)?.result;
  return result === 'condition' ? 'boolean' : result;
}

/** Where a node stands inside its expression. */
export type Inside = Readonly<{ filter: boolean; item: boolean }>;

/** Every node of an expression, and whether it is in a filter, or in the argument of a function over items. */
export function eachNode(
  tree: Node,
  visit: (node: Node, inside: Inside) => void,
  inside: Inside = { filter: false, item: false },
): void {
  visit(tree, inside);
  if (tree.kind === 'path') {
    if (tree.start.kind === 'value') eachNode(tree.start.node, visit, inside);
    for (const condition of filtersOf(tree)) eachNode(condition, visit, { filter: true, item: true });
  } else if (tree.kind === 'call') {
    const parameters = findFunction(tree.name)?.parameters ?? [];
    tree.args.forEach((argument, i) => {
      const overItems = /^item/.test(parameters[i]?.sort ?? '');
      eachNode(argument, visit, overItems ? { filter: false, item: true } : inside);
    });
  } else {
    for (const part of partsOf(tree)) eachNode(part, visit, inside);
  }
}
