import { behindWays, type Way } from './ways.ts';
import type { Source } from '../diagnostics/source.ts';
import { assertNever } from '../diagnostics/problem.ts';
import type { Node } from '../expression/model.ts';
import { boundTo, secretIn, type Secrecy } from '../expression/secrecy.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { Expression } from '../schema/leaves.ts';
import { leavesOutOf, targetPlaceholders } from '../template/request-line.ts';
import { onlyPlaceholder, textsOf, type Placeholder, type TextTemplate } from '../template/template.ts';
import type { Chain, Step } from './model.ts';
import type { NameInfo, Names } from './names.ts';
import type { BindingPart, Part } from './parts.ts';
import {
  PLAIN,
  placeAt,
  withCondition,
  type Binding,
  type Condition,
  type Place,
  type Surroundings,
  type Visitor,
} from './place.ts';
import { partsOf } from './steps/inside.ts';
import { secrecyOfInput } from './input-secrecy.ts';
import { TYPE_OF_INPUT, typeOfTree } from './value-types.ts';

export { eachNode, type Inside } from './each-node.ts';

/**
 * Goes through a chain once, for all visitors together, keeping account of which names there are where. The names that
 * a handler is given are those of that moment: a visitor reads them and does not hold on to them. Gives the names that there
 * are behind all steps.
 */
export function walkChain(chain: Chain, surroundings: Surroundings, visitors: readonly Visitor[]): Names {
  return new Walk(chain, surroundings, visitors).run();
}

const AT_THE_END = ['run'];
const IN_A_LOOP = ['loop'];
/** What makes sure in a cleanup that a name was kept. */
const GOT_THAT_FAR: Condition = {
  tree: { kind: 'literal', range: [0, 0], value: true },
  text: 'the chain got that far',
};

class Walk {
  private readonly names = new Map<string, NameInfo>();
  private readonly secretNames = new Map<string, Secrecy>();
  private readonly gone = new Map<string, string>();
  private under: readonly Condition[] = [];
  private meanings: readonly string[] = [];
  /** Names that a round may bind again. */
  private carried: ReadonlySet<string> = new Set();
  private readonly bindings: Binding[] = [];
  private outer: ReadonlySet<string> = new Set();
  private isAtEnd = false;

  constructor(
    private readonly chain: Chain,
    private readonly surroundings: Surroundings,
    private readonly visitors: readonly Visitor[],
  ) {}

  run(): Names {
    const { chain } = this;
    const endpoint = this.surroundings.endpointOf();
    for (const input of chain.inputs) {
      for (const visitor of this.visitors) visitor.input?.(input);
      if (input.default) for (const text of textsOf(input.default)) this.text(text, this.place('inputs', endpoint));
      const { optional } = input;
      this.secret(input.name, secrecyOfInput(input, this.secretNames));
      const info = { by: 'an input', kind: TYPE_OF_INPUT[input.type], optional, under: [], at: [input.nameRange] };
      this.bind({ name: input.name, range: input.nameRange, what: 'input' }, info);
    }
    for (const [name, info] of this.surroundings.known ?? []) this.names.set(name, info);
    this.steps(chain.steps);
    this.cleanup(chain);
    for (const { value } of chain.outputs)
      this.expression(value, { ...this.place('outputs', endpoint), meanings: AT_THE_END });
    for (const visitor of this.visitors) visitor.end?.();
    return this.names;
  }

  private steps(steps: readonly Step[]): void {
    steps.forEach((step, i) => this.step(step, steps[i - 1]));
  }

  private step(step: Step, before: Step | undefined): void {
    const outer = this.under;
    const plain = this.place(step.kind, this.surroundings.endpointOf());
    for (const visitor of this.visitors) visitor.step?.(step, plain, before);
    if (step.when) {
      this.expression(step.when, { ...plain, key: 'when', role: 'condition' });
      this.under = withCondition(outer, step.when);
    }
    if (step.kind === 'broken') {
      for (const name of step.binds)
        this.names.set(name, { by: 'a broken step', kind: undefined, optional: false, under: [], at: [] });
    }
    let place = { ...plain, under: this.under };
    if (step.kind === 'call') {
      place = { ...place, key: 'request', endpoint: this.surroundings.endpointOf(step), step: step.name };
      for (const visitor of this.visitors) visitor.call?.(step, place);
    }
    this.parts(partsOf(step), place);
    this.under = outer;
  }

  private parts(parts: readonly Part[], place: Place): void {
    for (const part of parts) this.part(part, place);
  }

  private part(part: Part, place: Place): void {
    switch (part.sort) {
      case 'expression':
        return this.expression(part.expression, { ...placeAt(place, part.at), role: part.role });
      case 'text':
        return this.text(part.text, placeAt(place, part.at));
      case 'target': {
        const leftOut = leavesOutOf(part.target);
        return targetPlaceholders(part.target).forEach((each) =>
          this.placeholder(each, leftOut.has(each), placeAt(place, part.at)),
        );
      }
      case 'file':
        return;
      case 'expectation': {
        const at = placeAt(place, part.at);
        for (const visitor of this.visitors) visitor.expectation?.(part.expectation, at);
        return this.parts(part.parts, place);
      }
      case 'request':
        // A call of a cleanup whose names were never kept is skipped.
        return this.parts(part.parts, this.isAtEnd ? { ...place, under: [...place.under, GOT_THAT_FAR] } : place);
      case 'binding':
        return this.binding(part, placeAt(place, part.at));
      case 'steps':
        return part.order === 'together' ? this.together(part.steps) : this.steps(part.steps);
      case 'arms':
        return this.arms(part);
      case 'answers':
        return this.answers(part, place);
      case 'scope':
        return part.of === 'item' ? this.item(part, place) : this.rounds(part, place);
      default:
        return assertNever(part);
    }
  }

  /** An item has a scope of its own: what is kept in it ends with it, and only what is gathered stays. */
  private item({ text, parts }: Extract<Part, { sort: 'scope'; of: 'item' }>, place: Place): void {
    const [before, meanings, outer] = [new Map(this.names), this.meanings, this.outer];
    this.outer = new Set(before.keys());
    this.meanings = [...meanings, ...IN_A_LOOP];
    this.parts(parts, { ...place, meanings: this.meanings });
    // Asking for a name that is gone is told with the loop that kept it.
    for (const name of this.names.keys()) if (!before.has(name)) this.gone.set(name, text);
    this.restore(before);
    this.meanings = meanings;
    this.outer = outer;
  }

  /** Carried names are there before the first round, and may be bound again in each; what the last round bound stays. */
  private rounds({ carried: names, parts }: Extract<Part, { sort: 'scope'; of: 'round' }>, place: Place): void {
    const [carried, meanings, outer] = [this.carried, this.meanings, this.outer];
    this.outer = new Set([...this.names.keys()].filter((name) => !names.includes(name)));
    this.carried = new Set([...carried, ...names]);
    this.meanings = [...meanings, ...IN_A_LOOP];
    this.parts(parts, { ...place, meanings: this.meanings });
    this.carried = carried;
    this.meanings = meanings;
    this.outer = outer;
  }

  /** Steps at the same time see none of each other's names; all of them are there behind them. */
  private together(steps: readonly Step[]): void {
    const before = new Map(this.names);
    const all = new Map(before);
    for (const step of steps) {
      this.restore(before);
      const from = this.bindings.length;
      this.step(step, undefined);
      for (const binding of this.bindings.slice(from)) {
        if (!all.has(binding.name)) continue;
        for (const visitor of this.visitors) visitor.binding?.({ ...binding, names: all });
      }
      for (const [name, info] of this.names) if (!before.has(name)) all.set(name, info);
    }
    this.restore(all);
  }

  /** Both arms see the names before; a name of one arm may be missing behind them, one of both may not. */
  private arms({ condition, arms: [steps, otherwise] }: Extract<Part, { sort: 'arms' }>): void {
    this.ways([
      { go: () => this.steps(steps), under: withCondition(this.under, condition), text: '' },
      { go: () => this.steps(otherwise), text: `not ${condition.source.text}` },
    ]);
  }

  /** What a call keeps, or what is done for a status of its response; then the call may be sent anew. */
  private answers({ of, parts, arms }: Extract<Part, { sort: 'answers' }>, place: Place): void {
    const ways = arms.map(({ status, steps, again }): Way => {
      return { go: () => this.steps(steps), text: `${of} was answered with ${status}`, leadsBack: again > 0 };
    });
    this.ways([{ go: () => this.parts(parts, place), text: `${of} was answered otherwise` }, ...ways]);
  }

  /** One of some ways is gone: what all of them bind is there behind them, what some bind may be missing. */
  private ways(all: readonly Way[]): void {
    const before = new Map(this.names);
    const { under: outer, carried } = this;
    const ends = all.flatMap(({ go, under = outer, text, leadsBack }) => {
      this.restore(before);
      this.under = under;
      if (leadsBack) this.carried = new Set([...carried, ...before.keys()]);
      go();
      this.carried = carried;
      return leadsBack ? [] : [{ names: new Map(this.names), text }];
    });
    this.under = outer;
    this.restore(behindWays(before, ends));
  }

  /** At the end everything but the inputs may be missing: nobody knows how far the chain got. */
  private cleanup({ cleanup, inputs: declared }: Chain): void {
    if (cleanup.length === 0) return;
    const inputs = new Set(declared.map(({ name }) => name));
    const before = new Map(this.names);
    for (const [name, info] of before) {
      if (!inputs.has(name)) this.names.set(name, { ...info, under: [...info.under, GOT_THAT_FAR.text] });
    }
    this.meanings = AT_THE_END;
    this.isAtEnd = true;
    this.steps(cleanup);
    this.isAtEnd = false;
    this.meanings = [];
    this.restore(before);
  }

  private restore(names: ReadonlyMap<string, NameInfo>): void {
    this.names.clear();
    for (const [name, info] of names) this.names.set(name, info);
  }

  private text(template: TextTemplate, place: Place): void {
    for (const visitor of this.visitors) visitor.text?.(template, place);
    const leftOut = place.leftOut && onlyPlaceholder(template) !== undefined;
    for (const piece of template.pieces) if (typeof piece !== 'string') this.placeholder(piece, leftOut, place);
  }

  private placeholder({ node, source }: Placeholder, leftOut: boolean, place: Place): void {
    this.tree(node, source, { ...place, placeholder: true, leftOut });
  }

  private expression({ tree, source }: Expression, place: Place): void {
    if (tree) this.tree(tree, source, place);
  }

  private tree(tree: Node, source: Source, place: Place): void {
    for (const visitor of this.visitors) visitor.expression?.(tree, source, place);
  }

  /** A name is secret when something is that it is made of. */
  private binding(part: BindingPart, place: Place): void {
    const { name, by, value, from, what } = part;
    if (value) this.expression(value, place);
    // What a round binds again may be of another kind.
    const kind = value && what !== 'carry' ? typeOfTree(value.tree, this.names, place.response) : part.kind;
    for (const tree of from) this.secret(name, secretIn(tree, this.secretNames));
    const under = what === 'item' || what === 'carry' ? [] : [...this.under.map(({ text }) => text), ...part.under];
    // What a round binds again is the same name.
    const before = this.carried.has(name) ? (this.names.get(name)?.at ?? []) : [];
    this.bind(part, { by, kind, optional: false, under, at: [...before, part.range] });
  }

  private secret(name: string, secrecy: Secrecy | undefined): void {
    if (secrecy) this.secretNames.set(name, boundTo(name, secrecy));
  }

  private bind({ name, range, what }: Pick<Binding, 'name' | 'range' | 'what'>, info: NameInfo): void {
    const { names, outer } = this;
    const binding: Binding = { name, range, file: this.chain.file, names, outer, what };
    this.bindings.push(binding);
    if (!this.carried.has(name)) for (const visitor of this.visitors) visitor.binding?.(binding);
    this.names.set(name, info);
  }

  private place(key: string, endpoint: Endpoint | undefined): Place {
    const { names, secretNames, under, meanings, gone } = this;
    return { ...PLAIN, names, key, meanings, gone, endpoint, secretNames, under };
  }
}
