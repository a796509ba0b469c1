import * as z from 'zod';
import type { Problem, Range } from '../diagnostics/problem.ts';
import type { Reading, YamlMap, YamlNode, YamlScalar } from '../yaml/tree.ts';

/**
 * How a YAML tree is shown to Zod: mappings as objects, lists as arrays, scalars as functions. A function is no object
 * to Zod, so a scalar can never pass for a mapping; and calling it gives the scalar with its place.
 */
export type Leaf = () => Placed<YamlScalar>;

/** A node, and the file that it belongs to. */
export type Placed<N extends YamlNode = YamlNode> = Readonly<{ node: N; reading: Reading }>;

const placed = Symbol('placed');

export function project(node: YamlNode, reading: Reading): unknown {
  if (node.kind === 'scalar') return () => ({ node, reading });
  if (node.kind === 'list')
    return tagged(
      node.items.map((item) => project(item, reading)),
      { node, reading },
    );
  const object = new Projected();
  for (const { key, value } of node.entries) object[key] = project(value, reading);
  return tagged(object, { node, reading });
}

function tagged<T extends object>(container: T, at: Placed): T {
  // A symbol is no key to Zod; setting it is much faster than defining it as hidden.
  (container as { [placed]?: Placed })[placed] = at;
  return container;
}

/** A mapping without anything inherited: `__proto__` and `constructor` are keys like any other. */
const Projected = function () {} as unknown as new () => Record<string, unknown>;
Projected.prototype = Object.create(null);

/** The node behind anything that `project` made. */
export function placedOf(projected: unknown): Placed {
  if (typeof projected === 'function') return (projected as Leaf)();
  return (projected as { [placed]: Placed })[placed];
}

/** A mapping with these keys and no others. */
export const mapping = <S extends z.core.$ZodLooseShape>(shape: S) => z.strictObject(shape);

/**
 * Reads a node by a schema. Problems are reported with their places; what they concern is then left away and the rest
 * read again, so that one mistake does not hide the others. `undefined` when nothing can be made of it.
 */
export function readShape<T>(
  schema: z.ZodType<T>,
  { node, reading }: Placed,
  explain: ExplainKey = () => ({}),
): T | undefined {
  const projected = project(node, reading);
  const first = schema.safeParse(projected);
  if (first.success) return first.data;
  for (const issue of withoutEchoes(first.error.issues.flatMap(flattened))) {
    for (const problem of problemsOf(issue, node, explain)) reading.report(problem);
    prune(projected, issue);
  }
  return schema.safeParse(projected).data;
}

/** Without what only follows from an unknown key at the same place: that no known one is there. */
function withoutEchoes(issues: readonly z.core.$ZodIssue[]): readonly z.core.$ZodIssue[] {
  const told = new Set(issues.filter(({ code }) => code === 'unrecognized_keys').map(({ path }) => path.join('\0')));
  return issues.filter(({ code, path }) => code !== 'custom' || !told.has(path.join('\0')));
}

/** Of a union, the issues of the alternative that was meant: the one that the value got into, if it did into any. */
function flattened(issue: z.core.$ZodIssue): readonly z.core.$ZodIssue[] {
  if (issue.code !== 'invalid_union') return [issue];
  const branches = issue.errors.map((branch) => branch.flatMap(flattened));
  const inside = branches.find((branch) =>
    branch.some((each) => each.path.length > 0 || each.code === 'unrecognized_keys'),
  );
  if (inside) return inside.map((each) => ({ ...each, path: [...issue.path, ...each.path] }));
  const words = branches.map((branch) => expectedWords(branch[0]!));
  return [{ ...issue, message: [...new Set(words)].join(', or ') }];
}

/** What to do about a key that is not known: its advice. `known` are the keys that may stand there. */
type ExplainKey = (key: string, path: readonly PropertyKey[]) => Readonly<{ advice?: string; meant?: string }>;

function problemsOf(issue: z.core.$ZodIssue, root: YamlNode, explain: ExplainKey): readonly Problem[] {
  const { node, keyRange } = nodeAt(root, issue.path);
  if (issue.code === 'unrecognized_keys' && node.kind === 'map') {
    return issue.keys.map((key) => {
      const { advice, meant } = explain(key, issue.path);
      const range = (node as YamlMap).entries.find((entry) => entry.key === key)!.keyRange;
      return {
        code: 'unknown-key',
        range,
        message: `Unknown key "${key}"`,
        ...(advice ? { advice } : {}),
        ...(meant === undefined ? {} : { fix: { range, text: meant } }),
      };
    });
  }
  const isMissing = nodeIsAbsent(root, issue.path);
  const name = String(issue.path.at(-1) ?? '');
  if (isMissing) {
    return [{ code: 'key-missing', range: keyRange ?? firstOf(node), message: `The key "${name}" is missing` }];
  }
  const wanted = expectedWords(issue);
  const what =
    node.kind === 'scalar'
      ? node.source.text === ''
        ? 'empty'
        : 'a single value'
      : node.kind === 'map'
        ? 'a mapping'
        : 'an array';
  const subject = typeof issue.path.at(-1) === 'string' ? `"${name}"` : 'This';
  return [{ code: 'wrong-type', range: firstOf(node, keyRange), message: `${subject} takes ${wanted}, not ${what}` }];
}

function expectedWords(issue: z.core.$ZodIssue): string {
  if (issue.code !== 'invalid_type') return issue.message;
  const words: Readonly<Record<string, string>> = { array: 'an array', object: 'a mapping', record: 'a mapping' };
  return words[issue.expected] ?? issue.expected;
}

function firstOf(node: YamlNode, keyRange?: Range): Range {
  if (node.kind === 'scalar' && node.range[1] > node.range[0]) return node.range;
  return keyRange ?? [node.range[0], node.range[0] + 1];
}

/** The node at a path, or the nearest one around it that exists. */
function nodeAt(root: YamlNode, path: readonly PropertyKey[]): { node: YamlNode; keyRange?: Range } {
  let node = root;
  let keyRange: Range | undefined;
  for (const key of path) {
    if (node.kind === 'list') {
      const item: YamlNode | undefined = node.items[key as number];
      if (!item) break;
      node = item;
      keyRange = undefined;
    } else if (node.kind === 'map') {
      const entry: YamlMap['entries'][number] | undefined = node.entries.find((each) => each.key === key);
      if (!entry) break;
      ({ value: node, keyRange } = entry);
    }
  }
  return { node, ...(keyRange ? { keyRange } : {}) };
}

function nodeIsAbsent(root: YamlNode, path: readonly PropertyKey[]): boolean {
  if (path.length === 0) return false;
  const parent = nodeAt(root, path.slice(0, -1)).node;
  return parent.kind === 'map' && !parent.entries.some((entry) => entry.key === path.at(-1));
}

/** Takes what an issue concerns out of the projection. */
function prune(projected: unknown, issue: z.core.$ZodIssue): void {
  let parent = projected as Record<PropertyKey, unknown>;
  for (const key of issue.path.slice(0, -1)) parent = (parent?.[key] ?? {}) as Record<PropertyKey, unknown>;
  const last = issue.path.at(-1);
  if (issue.code === 'unrecognized_keys') {
    const target = (last === undefined ? parent : parent?.[last]) as Record<string, unknown>;
    for (const key of issue.keys) delete target[key];
  } else if (last !== undefined && typeof parent === 'object') {
    if (Array.isArray(parent)) parent.splice(last as number, 1);
    else delete parent[last];
  }
}
