import type { Matches, PatternNode } from './parse.ts';

type Anchor = 'start' | 'end';

/**
 * States of a nondeterministic automaton as parallel lists: state `i` takes a code point (`sets[i]` is a function) and
 * goes to `next[i]`; or goes there only at an end of the text (`sets[i]` is an anchor); or goes on without reading to
 * `next[i]` and `other[i]`. State 0 is the end.
 */
type Automaton = { sets: (Matches | Anchor | undefined)[]; next: number[]; other: number[]; start: number };

/** States of one pattern; stops `((a{1000}){1000}){1000}`. */
const MAX_STATES = 5_000;
/** Cached sets of states; beyond that the cache is dropped and built anew, so memory stays bounded. */
const MAX_CACHED = 2_000;

export class PatternTooLarge extends Error {}

/** A set of states that the text read so far can be in, and where each next code point leads. */
type Step = {
  states: readonly number[];
  /** Whether the pattern matches up to here, and whether it does if the text ends here. */
  accepts: boolean;
  acceptsAtEnd: boolean;
  ascii: (Step | undefined)[];
  beyond: Map<number, Step>;
};

/**
 * Tests texts against a pattern in time linear in the text: all ways to match are followed at once, and each set of
 * states met is remembered with where it leads. No text makes it go back.
 */
export class Matcher {
  private readonly automaton: Automaton;
  private steps = new Map<string, Step>();

  constructor(tree: PatternNode) {
    const automaton: Automaton = { sets: [undefined], next: [-1], other: [-1], start: 0 };
    automaton.start = build(automaton, tree, 0);
    this.automaton = automaton;
  }

  /** Whether the whole text matches, or with `anywhere` some part of it. */
  test(text: string, anywhere: boolean): boolean {
    let step = this.stepOf(this.closure([this.automaton.start], 'start'));
    if (anywhere && step.accepts) return true;
    for (let i = 0; i < text.length; i++) {
      const point = text.codePointAt(i)!;
      if (point > 0xffff) i++;
      step = (point < 128 ? step.ascii[point] : step.beyond.get(point)) ?? this.advance(step, point, anywhere);
      if (anywhere && step.accepts) return true;
      if (step.states.length === 0) return false;
    }
    return step.acceptsAtEnd;
  }

  private advance(from: Step, point: number, anywhere: boolean): Step {
    const { sets, next, start } = this.automaton;
    const reached: number[] = [];
    for (const state of from.states) {
      const set = sets[state];
      if (typeof set === 'function' && set(point)) reached.push(next[state]!);
    }
    if (anywhere) reached.push(start);
    const step = this.stepOf(this.closure(reached));
    if (point < 128) from.ascii[point] = step;
    else {
      if (from.beyond.size >= MAX_CACHED) from.beyond.clear();
      from.beyond.set(point, step);
    }
    return step;
  }

  /** The states reachable without reading, through anchors of one sort only. */
  private closure(seeds: readonly number[], through?: Anchor): readonly number[] {
    const { sets, next, other } = this.automaton;
    const seen = new Set<number>();
    const stack = [...seeds];
    while (stack.length > 0) {
      const state = stack.pop()!;
      if (state < 0 || seen.has(state)) continue;
      seen.add(state);
      const set = sets[state];
      if (set === undefined && state !== 0) stack.push(next[state]!, other[state]!);
      else if (set === through) stack.push(next[state]!);
    }
    return [...seen].filter((state) => state === 0 || sets[state] !== undefined).sort((a, b) => a - b);
  }

  /** The one step for a set of states. */
  private stepOf(states: readonly number[]): Step {
    const key = states.join();
    let step = this.steps.get(key);
    if (!step) {
      if (this.steps.size >= MAX_CACHED) this.steps = new Map();
      const acceptsAtEnd = this.closure(states, 'end')[0] === 0;
      step = { states, accepts: states[0] === 0, acceptsAtEnd, ascii: [], beyond: new Map() };
      this.steps.set(key, step);
    }
    return step;
  }
}

/** Adds the states of a node that go on to state `end`; gives the state where the node begins. */
function build(automaton: Automaton, node: PatternNode, end: number): number {
  switch (node.kind) {
    case 'set':
      return add(automaton, node.matches, end, -1);
    case 'anchor':
      return add(automaton, node.at, end, -1);
    case 'group':
      return build(automaton, node.inner, end);
    case 'sequence':
      return node.parts.reduceRight((after, part) => build(automaton, part, after), end);
    case 'choice':
      return node.branches
        .map((branch) => build(automaton, branch, end))
        .reduceRight((rest, branch) => add(automaton, undefined, branch, rest));
    case 'repeat':
      return buildRepeat(automaton, node, end);
  }
}

function buildRepeat(automaton: Automaton, node: Extract<PatternNode, { kind: 'repeat' }>, end: number): number {
  let at = end;
  if (node.max === Infinity) {
    const loop = add(automaton, undefined, -1, end);
    automaton.next[loop] = build(automaton, node.inner, loop);
    at = loop;
  } else {
    for (let i = node.min; i < node.max; i++) at = add(automaton, undefined, build(automaton, node.inner, at), end);
  }
  for (let i = 0; i < node.min; i++) at = build(automaton, node.inner, at);
  return at;
}

function add(automaton: Automaton, set: Matches | Anchor | undefined, next: number, other: number): number {
  if (automaton.sets.length >= MAX_STATES) throw new PatternTooLarge();
  automaton.next.push(next);
  automaton.other.push(other);
  return automaton.sets.push(set) - 1;
}
