import type { Description } from './description.ts';
import { nearest } from '../diagnostics/suggest.ts';
import { percentDecoded } from '../value/percent.ts';
import type { Operation } from './operation.ts';

/** A segment of a request's path: its text, or nothing where it is not known before sending. */
export type Segment = string | undefined;

/** A path of a description in parts; what stands in braces matches any text. */
type Template = Readonly<{ operation: Operation; segments: readonly (string | RegExp)[] }>;

/** The operations of a description by method and path. */
export class OperationIndex {
  /** By method, number of segments and first segment; those with a template there under none. */
  private readonly buckets = new Map<string, Template[]>();
  /** Paths of servers, longest first: an API's URL may end before or behind one. */
  private readonly prefixes: readonly (readonly string[])[];

  constructor(private readonly description: Description) {
    for (const operation of description.operations) {
      const segments = segmentsOf(operation.path).map(patternOf);
      const [first] = segments;
      const key = keyOf(operation.method, segments.length, typeof first === 'string' ? first : undefined);
      const bucket = this.buckets.get(key);
      if (bucket) bucket.push({ operation, segments });
      else this.buckets.set(key, [{ operation, segments }]);
    }
    const paths = description.servers.map(({ url }) => segmentsOf(url.replace(/^[a-z]+:\/\/[^/]*/i, '')));
    this.prefixes = [...paths, []].sort((a, b) => b.length - a.length);
  }

  /**
   * The operation that a request belongs to: `base` is the path of the API's URL, `segments` what stands behind it. Of several
   * that fit the one with most literal segments (OpenAPI 3.1 section 4.8.8).
   */
  find(method: string, base: string, segments: readonly Segment[]): Operation | undefined {
    for (const path of this.paths(base, segments)) {
      const found = this.best(method, path);
      if (found) return found;
    }
    return undefined;
  }

  /** Methods that a path has operations for. */
  methodsAt(base: string, segments: readonly Segment[]): readonly string[] {
    const methods = new Set(this.description.operations.map(({ method }) => method));
    return [...methods].filter((method) => this.find(method, base, segments) !== undefined);
  }

  /** The operation whose name is closest to that of a request. */
  nearest(method: string, path: string): Operation | undefined {
    const names = this.description.operations.map(({ name }) => name);
    const name = nearest(`${method} ${path}`, names);
    return name === undefined ? undefined : this.description.operations.find((each) => each.name === name);
  }

  /** The path of a request as the description may write it: below a server's URL, or below that of the API. */
  private *paths(base: string, segments: readonly Segment[]): Generator<readonly Segment[]> {
    const whole = [...segmentsOf(base), ...segments];
    for (const prefix of this.prefixes)
      if (prefix.every((part, i) => part === whole[i] || /\{/.test(part))) yield whole.slice(prefix.length);
    yield segments;
  }

  private best(method: string, path: readonly Segment[]): Operation | undefined {
    let best: Readonly<{ operation: Operation; literals: number }> | undefined;
    for (const { operation, segments } of this.candidates(method, path)) {
      const literals = literalsOf(segments, path);
      if (literals !== undefined && (!best || literals > best.literals)) best = { operation, literals };
    }
    return best?.operation;
  }

  private candidates(method: string, path: readonly Segment[]): readonly Template[] {
    const [first] = path;
    const open = this.buckets.get(keyOf(method, path.length, undefined)) ?? [];
    if (first !== undefined) return [...(this.buckets.get(keyOf(method, path.length, first)) ?? []), ...open];
    const start = keyOf(method, path.length, '');
    return [...this.buckets].flatMap(([key, bucket]) => (key.startsWith(start) ? bucket : [])).concat(open);
  }
}

function keyOf(method: string, length: number, first: string | undefined): string {
  return first === undefined ? `${method} ${length}` : `${method} ${length} ${first}`;
}

/** How many segments are equal, where all fit; a segment that is not known fits a template before it fits a word. */
function literalsOf(template: readonly (string | RegExp)[], path: readonly Segment[]): number | undefined {
  let literals = 0;
  for (const [i, part] of template.entries()) {
    const segment = path[i];
    if (typeof part !== 'string') {
      if (segment !== undefined && !part.test(segment)) return undefined;
    } else if (segment === undefined) literals -= 1;
    else if (part === segment) literals += 1;
    else return undefined;
  }
  return literals;
}

/** The segments of a path, without its query. */
export function segmentsOf(path: string): readonly string[] {
  return path
    .replace(/[?#].*$/, '')
    .split('/')
    .filter((part, i, all) => part !== '' || (i > 0 && i < all.length - 1))
    .map(percentDecoded);
}

/** The values of the parameters of an operation's path, by their names; a path may begin with that of a server. */
export function pathValues(
  { path }: Operation,
  segments: readonly Segment[],
): readonly Readonly<{ name: string; text: Segment }>[] {
  const own = segmentsOf(path);
  const from = segments.length - own.length;
  return own.flatMap((each, i) => {
    const name = /^\{([^}]+)\}$/.exec(each)?.[1];
    return name === undefined ? [] : [{ name, text: segments[from + i] }];
  });
}

function patternOf(segment: string): string | RegExp {
  if (!segment.includes('{')) return segment;
  const parts = segment.split(/(\{[^}]*\})/);
  const source = parts.map((part) => (part.startsWith('{') ? '.+' : part.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')));
  return new RegExp(`^${source.join('')}$`, 's');
}
