import type { Chain, Step } from '../chain/model.ts';
import { apiOfCall } from '../chain/endpoints.ts';
import { nodesOfPart, type Part } from '../chain/parts.ts';
import type { Project } from '../chain/project-file.ts';
import { allPartsOf, partsOf } from '../chain/steps/inside.ts';
import { walkChain } from '../chain/walk.ts';
import type { Range } from '../diagnostics/problem.ts';
import { eachPath } from '../expression/names-read.ts';
import type { Node } from '../expression/model.ts';
import { nameList } from '../value/show.ts';
import { headOf } from './row-words.ts';
import type { Flow, Frame, Picture, PictureRow } from './picture.ts';

/** Rows that read a name, from which on it is a chip at each of them and not an arc to each. */
const MANY_READERS = 4;
/** Inputs and outputs that are named. */
const MOST_NAMES = 12;

/** Draws up a chain: what its rows are, and what they read of each other. */
export function pictureOf(chain: Chain, project: Project | undefined): Picture {
  const drawing = new Drawing(chain, project);
  return drawing.finish();
}

type Read = { row: number; name: string; from: readonly number[] };

class Drawing {
  private readonly rows: PictureRow[] = [];
  private readonly frames: Frame[] = [];
  /** The rows that bind names, by the place of the name. */
  private readonly binders = new Map<string, number>();
  /** The row of each expression. */
  private readonly rowOf = new Map<Node, number>();

  constructor(
    private readonly chain: Chain,
    private readonly project: Project | undefined,
  ) {
    const { inputs, steps, cleanup, outputs } = chain;
    if (inputs.length > 0) {
      const row = this.namesRow('inputs', inputs);
      for (const { nameRange } of inputs) this.binders.set(nameRange.join(), row);
    }
    this.steps(steps, '', 0);
    if (cleanup.length > 0) {
      this.row({ sort: 'heading', title: 'cleanup, in any case' });
      this.steps(cleanup, 'c', 0);
    }
    if (outputs.length > 0) {
      const row = this.namesRow('outputs', outputs);
      for (const { value } of outputs) if (value.tree) this.rowOf.set(value.tree, row);
    }
  }

  finish(): Picture {
    const reads = this.reads();
    const readers = new Map<string, Set<number>>();
    for (const { name, from, row } of reads) {
      const key = `${name} ${from.join()}`;
      readers.set(key, (readers.get(key) ?? new Set()).add(row));
    }
    const isMany = ({ name, from }: Read) => readers.get(`${name} ${from.join()}`)!.size > MANY_READERS;
    const chips = new Map<number, Set<string>>();
    for (const read of reads.filter(isMany)) chips.set(read.row, (chips.get(read.row) ?? new Set()).add(read.name));
    const { name, about } = this.chain;
    return {
      name,
      about,
      rows: this.rows.map((row, i) => ({ ...row, chips: [...(chips.get(i) ?? [])] })),
      frames: this.frames,
      flows: flowsOf(reads.filter((read) => !isMany(read))),
      apis: [...new Set(this.rows.flatMap(({ api }) => api ?? []))],
    };
  }

  private row(row: Partial<PictureRow> & Pick<PictureRow, 'sort' | 'title'>): number {
    return this.rows.push({ number: '', depth: 0, kind: '', lines: [], api: undefined, chips: [], ...row }) - 1;
  }

  private namesRow(sort: 'inputs' | 'outputs', all: readonly Readonly<{ name: string }>[]): number {
    const names = all.map(({ name }) => name);
    return this.row({ sort, title: sort, lines: [nameList(names, MOST_NAMES)] });
  }

  private steps(steps: readonly Step[], inside: string, depth: number): void {
    steps.forEach((step, i) => this.step(step, `${inside}${i + 1}`, depth));
  }

  private step(step: Step, number: string, depth: number): void {
    const api = step.kind === 'call' ? apiOfCall(step, this.chain, this.project) : undefined;
    const row = this.row({ sort: 'step', number, depth, api, ...headOf(step) });
    if (step.when?.tree) this.rowOf.set(step.when.tree, row);
    for (const part of allPartsOf(step)) {
      if (part.sort === 'binding') this.binders.set(part.range.join(), row);
      for (const [node] of nodesOfPart(part)) this.rowOf.set(node, row);
    }
    for (const part of partsOf(step)) this.inside(part, number, depth + 1);
    const last = this.rows.length - 1;
    if (last > row) this.frames.push({ first: row, last, depth });
  }

  /** The steps inside a part, arms under headings of their own. */
  private inside(part: Part, number: string, depth: number): void {
    switch (part.sort) {
      case 'steps':
        return this.steps(part.steps, `${number}.`, depth);
      case 'scope':
        return part.parts.forEach((each) => this.inside(each, number, depth));
      case 'arms': {
        const [steps, otherwise] = part.arms;
        this.steps(steps, `${number}.`, depth);
        if (otherwise.length === 0) return;
        this.row({ sort: 'heading', title: 'otherwise', depth });
        return this.steps(otherwise, `${number}.o`, depth);
      }
      case 'answers':
        for (const { status, steps, again } of part.arms) {
          const title = `answered with ${status}${again > 0 ? ', then again' : ''}`;
          this.row({ sort: 'heading', title, depth });
          this.steps(steps, `${number}.`, depth);
        }
    }
  }

  /** Which row reads which name, and the rows that bind it. */
  private reads(): readonly Read[] {
    const reads: Read[] = [];
    const rowsAt = (at: readonly Range[]) => [...new Set(at.flatMap((range) => this.binders.get(range.join()) ?? []))];
    walkChain(this.chain, { endpointOf: () => undefined }, [
      {
        expression: (tree, _source, { names }) => {
          const row = this.rowOf.get(tree);
          if (row === undefined) return;
          eachPath(tree, ({ start }) => {
            if (start.kind !== 'name') return;
            const from = rowsAt(names.get(start.name)?.at ?? []).filter((each) => each !== row);
            if (from.length > 0) reads.push({ row, name: start.name, from });
          });
        },
      },
    ]);
    return reads;
  }
}

/** One flow for each pair of rows, with all names that go that way. */
function flowsOf(reads: readonly Read[]): readonly Flow[] {
  const flows = new Map<string, { from: number; to: number; names: Set<string> }>();
  for (const { row, name, from } of reads)
    for (const each of from) {
      const key = `${each} ${row}`;
      const flow = flows.get(key) ?? { from: each, to: row, names: new Set<string>() };
      flow.names.add(name);
      flows.set(key, flow);
    }
  return [...flows.values()].map(({ from, to, names }) => ({ from, to, names: [...names] }));
}
