import type { Problem, Range } from '../diagnostics/problem.ts';
import type { Source, SourceFile } from '../diagnostics/source.ts';

/** A YAML file as a tree in which every part knows where it stands. Aliases are resolved; styles are forgotten. */
export type YamlNode = YamlMap | YamlList | YamlScalar;

export type YamlEntry = Readonly<{
  key: string;
  keyRange: Range;
  value: YamlNode;
}>;
export type YamlMap = Readonly<{
  kind: 'map';
  /** Written with braces. */
  flow?: true;
  range: Range;
  entries: readonly YamlEntry[];
}>;
type YamlList = Readonly<{
  kind: 'list';
  /** Written with brackets. */
  flow?: true;
  range: Range;
  items: readonly YamlNode[];
}>;
export type YamlScalar = Readonly<{
  kind: 'scalar';
  range: Range;
  /** Without quotes: what `null`, `true` or `1.10` say only when they are meant so. */
  plain: boolean;
  /** The text of the scalar with YAML's quoting taken off, and where it stands. */
  source: Source;
}>;

/** A file being read: its text, and where problems in it go. */
export type Reading = Readonly<{
  file: SourceFile;
  report(problem: Problem): void;
}>;

export function entryOf(node: YamlNode, key: string): YamlEntry | undefined {
  return node.kind === 'map' ? node.entries.find((entry) => entry.key === key) : undefined;
}
