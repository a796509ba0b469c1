import type { Chain } from '../chain/model.ts';
import type { EndpointOf } from '../chain/endpoints.ts';
import type { Place } from '../chain/place.ts';
import { walkChain } from '../chain/walk.ts';
import type { Range } from '../diagnostics/problem.ts';
import { type Source } from '../diagnostics/source.ts';
import { eachPath } from '../expression/names-read.ts';
import type { Node, PathNode } from '../expression/model.ts';
import { stepsOf } from '../chain/steps/inside.ts';

/** Where a name is bound or read in a file. */
export type Occurrence = Readonly<{ range: Range; isBinding: boolean; symbol: number }>;

/** A name that an expression reads, and the path that begins with it. */
type NameUse = Readonly<{ name: string; range: Range; path: PathNode; source: Source }>;

/** An expression of the file, and what is known where it is. */
export type Spot = Readonly<{ tree: Node; source: Source; range: Range; place: Place }>;

/** The names of a chain file: where each is bound and read. Places that mean the same name have one symbol. */
export type Symbols = Readonly<{
  occurrences: readonly Occurrence[];
  nameOf(symbol: number): string;
  /** What binds the symbol: an input, an output of the same name too, or something inside. */
  roles(symbol: number): ReadonlySet<'input' | 'output'>;
  uses: readonly NameUse[];
  spots: readonly Spot[];
}>;

/** Goes over a chain and gathers its names. */
export function symbolsOf(chain: Chain, endpointOf: EndpointOf): Symbols {
  const groups = new Groups();
  const uses: NameUse[] = [];
  const spots: Spot[] = [];
  walkChain(chain, { endpointOf: (call) => endpointOf(chain, call) }, [
    {
      binding({ name, range, names }) {
        groups.binding(name, range);
        // A later binding of the same name in its scope is the same name.
        for (const other of names.get(name)?.at ?? []) groups.join(range, other);
      },
      expression(tree, source, place) {
        // The names of a place are those of the moment.
        const names = new Map(place.names);
        spots.push({ tree, source, range: source.locate(tree.range), place: { ...place, names } });
        eachPath(tree, (path) => {
          if (path.start.kind !== 'name') return;
          const { name } = path.start;
          const info = names.get(name);
          const range = source.locate(path.start.range);
          uses.push({ name, range, path, source });
          if (info && info.at.length > 0) groups.read(name, range, info.at);
        });
      },
    },
  ]);
  // The last round of a loop, and arms that both bind a name, bring several places together.
  for (const { place } of spots)
    for (const { at } of place.names.values()) if (at.length > 1) at.forEach((each) => groups.join(each, at[0]!));
  return { ...groups.symbols(chain), uses, spots };
}

/** Places that mean the same name, brought together as they are found. */
class Groups {
  private readonly parents = new Map<string, string>();
  private readonly found = new Map<string, Readonly<{ name: string; range: Range; isBinding: boolean }>>();

  binding(name: string, range: Range): void {
    this.found.set(range.join(), { name, range, isBinding: true });
  }

  read(name: string, range: Range, at: readonly Range[]): void {
    if (!this.found.has(range.join())) this.found.set(range.join(), { name, range, isBinding: false });
    for (const each of at) this.join(range, each);
  }

  join(one: Range, other: Range): void {
    const [a, b] = [this.root(one.join()), this.root(other.join())];
    if (a !== b) this.parents.set(a, b);
  }

  private root(key: string): string {
    let at = key;
    for (let above = this.parents.get(at); above !== undefined; above = this.parents.get(at)) at = above;
    return at;
  }

  symbols(chain: Chain): Pick<Symbols, 'occurrences' | 'nameOf' | 'roles'> {
    const numbers = new Map<string, number>();
    const names: string[] = [];
    const occurrences = [...this.found].map(([key, { name, range, isBinding }]): Occurrence => {
      const root = this.root(key);
      let symbol = numbers.get(root);
      if (symbol === undefined) numbers.set(root, (symbol = names.push(name) - 1));
      return { range, isBinding, symbol };
    });
    const symbolAt = (range: Range) => numbers.get(this.root(range.join()));
    const inputs = new Set(chain.inputs.map(({ nameRange }) => symbolAt(nameRange)));
    // In a list of outputs a name is its own value.
    const listed = chain.outputs.filter(({ nameRange, value }) => nameRange[0] === value.source.locate([0, 0])[0]);
    const outputs = new Set(listed.map(({ nameRange }) => symbolAt(nameRange)));
    return {
      occurrences,
      nameOf: (symbol) => names[symbol]!,
      roles: (symbol) =>
        new Set([
          ...(inputs.has(symbol) ? (['input'] as const) : []),
          ...(outputs.has(symbol) ? (['output'] as const) : []),
        ]),
    };
  }
}

/** Names of another chain that a chain passes values to, or reads outputs of, with their places. */
export function namesOfUsed(
  chain: Chain,
): readonly Readonly<{ file: Source; of: 'input' | 'output'; name: string; range: Range }>[] {
  return stepsOf(chain).flatMap((step) => {
    if (step.kind !== 'chain') return [];
    const inputs = step.inputs.map(({ name, nameRange }) => ({
      file: step.file,
      of: 'input' as const,
      name,
      range: nameRange,
    }));
    const outputs: { file: Source; of: 'output'; name: string; range: Range }[] = [];
    for (const { value } of step.keep) {
      if (!value.tree) continue;
      eachPath(value.tree, ({ start, segments: [segment] }) => {
        const selector = segment?.selectors[0];
        if (start.kind !== 'name' || start.name !== 'outputs' || selector?.kind !== 'name') return;
        const [, end] = value.source.locate(selector.range);
        outputs.push({ file: step.file, of: 'output', name: selector.name, range: [end - selector.name.length, end] });
      });
    }
    return [...inputs, ...outputs];
  });
}
