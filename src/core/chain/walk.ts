import type { Range } from '../diagnostics/problem.ts';
import type { Node } from '../expression/model.ts';
import { secretIn } from '../expression/secrecy.ts';
import type { Endpoint, RequestTemplate } from '../http/endpoint.ts';
import type { Expression, Named } from '../schema/leaves.ts';
import { placeholdersOf, textsOf } from '../template/template.ts';
import { TYPE_OF_INPUT, typeOfTree } from './value-types.ts';
import type {
  CallStep,
  Chain,
  ChainStep,
  EachStep,
  ReceiveStep,
  RepeatStep,
  Step,
  ParallelStep,
  Undo,
} from './model.ts';
import type { NameInfo } from './names.ts';

import { TextsWalk } from './walk-texts.ts';
import type { Binding, Condition, Place, Surroundings, Visitor } from './place.ts';

export { eachNode, type Inside } from './each-node.ts';

/**
 * Goes through a chain once, for all visitors together, keeping account of which names there are where. The names that
 * a handler is given are those of that moment: a visitor reads them and does not hold on to them.
 */
export function walkChain(chain: Chain, surroundings: Surroundings, visitors: readonly Visitor[]): void {
  new Walk(chain, surroundings, visitors).run();
}

const AT_THE_END = ['run'];
/** What makes sure in a cleanup that a name was kept. */
const GOT_THAT_FAR: Condition = {
  tree: { kind: 'literal', range: [0, 0], value: true },
  text: 'the chain got that far',
};
/** Names beside those of a response that a received request has. */
const OF_A_REQUEST = ['method', 'query'];
const IN_A_LOOP = ['loop'];

class Walk extends TextsWalk {
  private readonly names = new Map<string, NameInfo>();
  private readonly secretNames = new Map<string, string>();
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
    visitors: readonly Visitor[],
  ) {
    super(visitors);
  }

  run(): void {
    const { chain } = this;
    const endpoint = this.surroundings.endpointOf(undefined);
    for (const input of chain.inputs) {
      for (const visitor of this.visitors) visitor.input?.(input);
      if (input.default) this.texts(textsOf(input.default), this.place('inputs', endpoint));
      const { optional } = input;
      if (input.type === 'secret') this.secretNames.set(input.name, input.name);
      this.bind(input.name, input.nameRange, 'input', {
        by: 'an input',
        kind: TYPE_OF_INPUT[input.type],
        optional,
        under: [],
      });
    }
    this.steps(chain.steps);
    this.cleanup(chain);
    for (const { value } of chain.outputs)
      this.expression(value, { ...this.place('outputs', endpoint), meanings: AT_THE_END });
    for (const visitor of this.visitors) visitor.end?.();
  }

  private steps(steps: readonly Step[]): void {
    steps.forEach((step, i) => this.step(step, steps[i - 1]));
  }

  private step(step: Step, before: Step | undefined): void {
    const outer = this.under;
    const plain = this.place(step.kind, this.surroundings.endpointOf(undefined));
    for (const visitor of this.visitors) visitor.step?.(step, plain, before);
    if (step.when) {
      this.expression(step.when, { ...plain, key: 'when', role: 'condition' });
      this.under = withCondition(outer, step.when);
    }
    this.inside(step, { ...plain, under: this.under });
    this.under = outer;
  }

  private inside(step: Step, place: Place): void {
    switch (step.kind) {
      case 'broken':
        for (const name of step.binds)
          this.names.set(name, { by: 'a broken step', kind: undefined, optional: false, under: [] });
        return;
      case 'let':
        this.binds(step.names, 'let', 'computed by let', place);
        return;
      case 'say':
      case 'stop':
        this.texts([step.text], place);
        return;
      case 'listen':
        this.texts(
          [step.path, step.public].filter((each) => each !== undefined),
          { ...place, key: 'listen' },
        );
        this.bind(step.name, step.nameSource.locate([0, step.name.length]), 'keep', {
          by: 'an address for callbacks',
          kind: 'object',
          optional: false,
          under: this.under.map(({ text }) => text),
        });
        return;
      case 'receive':
        this.receive(step, place);
        return;
      case 'remember':
        for (const { value } of step.names) this.expression(value, { ...place, key: 'remember' });
        return;
      case 'write':
        this.texts([step.file], { ...place, key: 'write' });
        for (const [, value] of step.row ?? [])
          this.texts(textsOf(value), { ...place, key: step.reveal ? 'reveal' : 'write' });
        if (step.rows) this.expression(step.rows, { ...place, key: step.reveal ? 'reveal' : 'write' });
        return;
      case 'wait':
        this.expression('for' in step ? step.for : step.to, place);
        return;
      case 'if':
        this.branch(step, place);
        return;
      case 'each':
        this.each(step, place);
        return;
      case 'parallel':
        this.parallel(step);
        return;
      case 'repeat':
        this.repeat(step, place);
        return;
      case 'chain':
        this.chainStep(step, place);
        return;
      case 'call':
        this.call(step);
    }
  }

  /** An item has a scope of its own: what is kept in it ends with it, and only what is gathered stays. */
  private each(step: EachStep, place: Place): void {
    this.expression(step.list, { ...place, key: 'each' });
    const [before, meanings, outer] = [new Map(this.names), this.meanings, this.outer];
    this.outer = new Set(before.keys());
    const item = { by: `an item of ${step.list.source.text.trim()}`, kind: undefined, optional: false, under: [] };
    this.bind(step.name, step.nameSource.locate([0, step.name.length]), 'item', item);
    if (step.list.tree) this.secretFrom(step.name, step.list.tree);
    if (step.rejects) this.texts([step.rejects], { ...place, key: 'rejects' });
    this.meanings = [...meanings, ...IN_A_LOOP];
    const inside = () => this.place('each', place.endpoint);
    if (step.identifiedBy) this.expression(step.identifiedBy, { ...inside(), key: 'identified-by' });
    this.steps(step.steps);
    for (const { value } of step.gather) this.texts(textsOf(value), { ...inside(), key: 'gather' });
    this.leave(before, `each ${step.head.text.trim()}`);
    this.meanings = meanings;
    this.outer = outer;
    for (const { name, nameRange, value } of step.gather) {
      const secret = placeholdersOf(value).flatMap(
        (placeholder) => secretIn(placeholder.node, this.secretNames) ?? [],
      )[0];
      if (secret !== undefined) this.secretNames.set(name, secret);
      const under = this.under.map(({ text }) => text);
      this.bind(name, nameRange, 'gather', { by: 'gathered by a loop', kind: 'array', optional: false, under });
    }
  }

  /** Names of an inner scope are gone behind it; asking for one is told with the loop that kept it. */
  private leave(before: ReadonlyMap<string, NameInfo>, loop: string): void {
    for (const name of this.names.keys()) if (!before.has(name)) this.gone.set(name, loop);
    this.restore(before);
  }

  /** Steps of one `together` see none of each other's names; all of them are there behind it. */
  private parallel({ steps }: ParallelStep): void {
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

  /** Carried names are there before the first round, and may be bound again in each; what the last round bound stays. */
  private repeat(step: RepeatStep, place: Place): void {
    for (const { name, nameRange, value } of step.carry) {
      this.expression(value, { ...place, key: 'carry' });
      this.bind(name, nameRange, 'carry', { by: 'carried', kind: undefined, optional: false, under: [] });
    }
    const [carried, meanings, outer] = [this.carried, this.meanings, this.outer];
    this.outer = new Set([...this.names.keys()].filter((name) => !step.carry.some((each) => each.name === name)));
    this.carried = new Set([...carried, ...step.carry.map(({ name }) => name)]);
    this.meanings = [...meanings, ...IN_A_LOOP];
    this.steps(step.steps);
    for (const condition of [step.giveUpWhen, step.until]) {
      if (condition) this.expression(condition, { ...this.place('until', place.endpoint), role: 'condition' });
    }
    this.carried = carried;
    this.meanings = meanings;
    this.outer = outer;
  }

  private chainStep(step: ChainStep, place: Place): void {
    for (const { value } of step.inputs) this.values(value, { ...place, key: 'inputs' });
    this.binds(step.keep, 'keep', `output of ${step.file.text}`, {
      ...place,
      key: 'keep',
      meanings: [...place.meanings, 'outputs'],
    });
  }

  /** The request received is read as responses are. */
  private receive(step: ReceiveStep, place: Place): void {
    const received: Place = {
      ...place,
      key: 'receive',
      response: true,
      meanings: [...place.meanings, ...OF_A_REQUEST],
    };
    if (step.until) this.expression(step.until, { ...received, role: 'condition' });
    for (const { value } of step.respond?.headers ?? []) this.values(value, received);
    this.texts(step.respond?.body?.texts ?? [], received);
    for (const each of step.expect) this.expectation(each, received);
    this.binds(step.keep, 'keep', `received at ${step.name}`, { ...received, key: 'keep' });
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

  private secretFrom(name: string, tree: Node): void {
    const secret = secretIn(tree, this.secretNames);
    if (secret !== undefined) this.secretNames.set(name, secret);
  }

  private call(step: CallStep): void {
    const place = { ...this.place('request', this.surroundings.endpointOf(step.api)), step: step.name };
    for (const visitor of this.visitors) visitor.call?.(step, place);
    this.request(step.request, place);
    const response: Place = { ...place, key: 'expect', response: true };
    if (step.save) this.texts([step.save], { ...place, key: 'save' });
    if (step.untilEvent) this.expression(step.untilEvent.until, { ...response, key: 'until-event', role: 'condition' });
    if (step.paging) this.paging(step.paging, response);
    if (step.poll) this.poll(step.poll, response);
    for (const each of step.expect) this.expectation(each, response);
    const goesOn = step.onFailure === 'continue' ? [`${step.name} passed`] : [];
    this.binds(step.keep, 'keep', `kept by ${step.name}`, { ...response, key: 'keep' }, goesOn);
    if (step.undo) this.undo(step.undo, place, response);
  }

  /** It sees what the call itself has kept. */
  private undo({ request, expect }: Undo, place: Place, response: Place): void {
    this.request(request, { ...place, key: 'undo' });
    for (const each of expect) this.expectation(each, response);
  }

  /** Both arms see the names before; a name of one arm may be missing behind them, one of both may not. */
  private branch({ condition, steps, otherwise }: Extract<Step, { kind: 'if' }>, place: Place): void {
    this.expression(condition, { ...place, key: 'if', role: 'condition' });
    const outer = this.under;
    const before = new Map(this.names);
    this.under = withCondition(outer, condition);
    this.steps(steps);
    const then = new Map(this.names);
    this.restore(before);
    this.under = outer;
    this.steps(otherwise);
    for (const [name, info] of then) {
      if (before.has(name)) continue;
      const other = this.names.get(name);
      const kind = other?.kind === info.kind ? info.kind : undefined;
      this.names.set(name, other ? { ...info, kind, under: [] } : info);
    }
    for (const [name, info] of this.names) {
      if (!before.has(name) && !then.has(name))
        this.names.set(name, { ...info, under: [...info.under, `not ${condition.source.text}`] });
    }
  }

  private restore(names: ReadonlyMap<string, NameInfo>): void {
    this.names.clear();
    for (const [name, info] of names) this.names.set(name, info);
  }

  private request(template: RequestTemplate, outer: Place): void {
    // A call of a cleanup whose names were never kept is skipped.
    const place = this.isAtEnd ? { ...outer, under: [...outer.under, GOT_THAT_FAR] } : outer;
    this.requestParts(template, place);
  }

  /** Entries of `let` or `keep`, each seeing those before it. */
  private binds(
    entries: Named<Expression>,
    what: Binding['what'],
    by: string,
    place: Place,
    further: readonly string[] = [],
  ): void {
    const under = [...this.under.map(({ text }) => text), ...further];
    for (const { name, nameRange, value } of entries) {
      this.expression(value, place);
      const kind = typeOfTree(value.tree, this.names, place.response);
      const secret = value.tree && secretIn(value.tree, this.secretNames);
      if (secret !== undefined) this.secretNames.set(name, secret);
      this.bind(name, nameRange, what, { by, kind, optional: false, under });
    }
  }

  private bind(name: string, range: Range, what: Binding['what'], info: NameInfo): void {
    const { names, outer } = this;
    const binding: Binding = { name, range, file: this.chain.file, names, outer, what };
    this.bindings.push(binding);
    if (!this.carried.has(name)) for (const visitor of this.visitors) visitor.binding?.(binding);
    this.names.set(name, info);
  }

  private place(key: string, endpoint: Endpoint | undefined): Place {
    const { names, secretNames, under, meanings, gone } = this;
    return {
      names,
      key,
      placeholder: false,
      leftOut: false,
      response: false,
      role: 'value',
      step: undefined,
      meanings,
      gone,
      endpoint,
      secretNames,
      under,
    };
  }
}

/** The conditions of a place with one more. */
function withCondition(outer: readonly Condition[], { tree, source }: Expression): readonly Condition[] {
  if (!tree) return outer;
  return [...outer, { tree, text: source.text.trim() }];
}
