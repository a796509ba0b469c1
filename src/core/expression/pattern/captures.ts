import { PatternTooLarge } from './automaton.ts';
import type { Matches, PatternNode } from './parse.ts';

type Instruction =
  | { kind: 'set'; matches: Matches }
  | { kind: 'anchor'; at: 'start' | 'end' }
  /** Goes on at `first`, and where that fails at `second`. */
  | { kind: 'split'; first: number; second: number }
  | { kind: 'save'; slot: number }
  | { kind: 'match' };

const MAX_INSTRUCTIONS = 5_000;

/** Where groups begin and end, newest first: a way through the pattern shares what it has in common with others. */
type Saved = Readonly<{ slot: number; at: number; before: Saved | undefined }>;

/** The stretches of a match: the whole of it first, then each group; `undefined` for a group that took no part. */
export type Groups = readonly (readonly [start: number, end: number] | undefined)[];

/**
 * Finds the first match of a pattern and the stretches of its groups, in time linear in the text: all ways to match
 * move on together, those that are preferred (longer repeats, earlier branches) before others.
 */
export class Finder {
  private readonly program: Instruction[] = [];
  readonly groupCount: number;

  constructor(tree: PatternNode) {
    const groups = { count: 0 };
    this.add({ kind: 'save', slot: 0 });
    this.compile(tree, groups);
    this.add({ kind: 'save', slot: 1 });
    this.add({ kind: 'match' });
    this.groupCount = groups.count;
  }

  // eslint-disable-next-line complexity -- one loop over the text, whose state is not worth handing around
  find(text: string): Groups | undefined {
    let threads: [state: number, saved: Saved | undefined][] = [];
    let found: Saved | undefined;
    for (let i = 0; ; i++) {
      const seen = new Uint8Array(this.program.length);
      const reached: typeof threads = [];
      const next: typeof threads = [];
      for (const [state, saved] of threads) this.follow(state, saved, i, text, seen, reached);
      // A match found further left counts before one that would begin here.
      if (!found) this.follow(0, undefined, i, text, seen, reached);
      const point = text.codePointAt(i);
      for (const [state, saved] of reached) {
        const instruction = this.program[state]!;
        if (instruction.kind === 'match') {
          found = saved;
          break;
        }
        if (instruction.kind === 'set' && point !== undefined && instruction.matches(point))
          next.push([state + 1, saved]);
      }
      threads = next;
      if (point === undefined || (found && threads.length === 0)) break;
      if (point > 0xffff) i++;
    }
    return found && this.groupsOf(found);
  }

  /** Follows all that reads nothing, preferred ways first; `seen` keeps each state to its most preferred way. */
  private follow(
    from: number,
    start: Saved | undefined,
    at: number,
    text: string,
    seen: Uint8Array,
    reached: [number, Saved | undefined][],
  ): void {
    const stack: [number, Saved | undefined][] = [[from, start]];
    while (stack.length > 0) {
      const [state, saved] = stack.pop()!;
      if (seen[state]) continue;
      seen[state] = 1;
      const instruction = this.program[state]!;
      switch (instruction.kind) {
        case 'split':
          stack.push([instruction.second, saved], [instruction.first, saved]);
          break;
        case 'save':
          stack.push([state + 1, { slot: instruction.slot, at, before: saved }]);
          break;
        case 'anchor':
          if (at === (instruction.at === 'start' ? 0 : text.length)) stack.push([state + 1, saved]);
          break;
        default:
          reached.push([state, saved]);
      }
    }
  }

  private groupsOf(found: Saved): Groups {
    const slots: number[] = [];
    for (let saved: Saved | undefined = found; saved; saved = saved.before) slots[saved.slot] ??= saved.at;
    return Array.from({ length: this.groupCount + 1 }, (_, group) => {
      const [start, end] = [slots[group * 2], slots[group * 2 + 1]];
      return start === undefined || end === undefined ? undefined : [start, end];
    });
  }

  private compile(node: PatternNode, groups: { count: number }): void {
    switch (node.kind) {
      case 'set':
      case 'anchor':
        this.add(node);
        return;
      case 'sequence':
        for (const part of node.parts) this.compile(part, groups);
        return;
      case 'group':
        groups.count = Math.max(groups.count, node.number);
        this.add({ kind: 'save', slot: node.number * 2 });
        this.compile(node.inner, groups);
        this.add({ kind: 'save', slot: node.number * 2 + 1 });
        return;
      case 'choice':
        this.choice(node.branches, groups);
        return;
      case 'repeat':
        this.repeat(node, groups);
    }
  }

  private choice([first, ...rest]: readonly PatternNode[], groups: { count: number }): void {
    if (rest.length === 0) {
      this.compile(first!, groups);
      return;
    }
    const split = this.split();
    this.compile(first!, groups);
    const past = this.split();
    split.second = this.program.length;
    this.choice(rest, groups);
    past.first = past.second = this.program.length;
  }

  private repeat({ inner, min, max }: Extract<PatternNode, { kind: 'repeat' }>, groups: { count: number }): void {
    for (let i = 0; i < min; i++) this.compile(inner, groups);
    if (max === Infinity) {
      const at = this.program.length;
      const split = this.split();
      this.compile(inner, groups);
      this.add({ kind: 'split', first: at, second: at });
      split.second = this.program.length;
      return;
    }
    const splits = Array.from({ length: max - min }, () => {
      const split = this.split();
      this.compile(inner, groups);
      return split;
    });
    for (const split of splits) split.second = this.program.length;
  }

  /** A split that goes on right behind itself; where else is set when that is known. */
  private split(): Extract<Instruction, { kind: 'split' }> {
    const split = { kind: 'split' as const, first: this.program.length + 1, second: this.program.length + 1 };
    this.add(split);
    return split;
  }

  private add(instruction: Instruction): void {
    if (this.program.length >= MAX_INSTRUCTIONS) throw new PatternTooLarge();
    this.program.push(instruction);
  }
}
