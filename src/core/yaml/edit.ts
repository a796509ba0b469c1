import type { Edit } from '../diagnostics/problem.ts';
import { positionOf, type SourceFile } from '../diagnostics/source.ts';
import { yamlScalar } from './quoting.ts';
import { entryOf, type YamlEntry, type YamlMap, type YamlNode } from './tree.ts';

/** A file with an edit done: everything else in it stays as it is, to the byte. */
export function edited({ text }: SourceFile, { range: [from, to], text: by }: Edit): string {
  return text.slice(0, from) + by + text.slice(to);
}

/**
 * Puts an entry `name: said` into the mapping under `key` of a mapping, which is made when it is not there: a text, or a
 * list of texts. Comments and layout stay; the new line is indented as those beside it.
 */
export function withNamed(
  file: SourceFile,
  step: YamlMap,
  key: string,
  name: string,
  said: string | readonly string[],
): Edit {
  const value = (inFlow: boolean) =>
    typeof said === 'string' ? yamlScalar(said, inFlow) : `[${said.map((each) => yamlScalar(each, true)).join(', ')}]`;
  const entry = entryOf(step, key);
  const target = entry?.value;
  if (target?.kind === 'map' && target.entries.length > 0) {
    const isFlow = target.flow === true;
    const written = `${name}: ${value(isFlow)}`;
    const last = target.entries.at(-1)!;
    if (isFlow) return insertion(endOfEntry(last), `, ${written}`);
    return lineBehind(file, endOfEntry(last), `${indentOf(file, target.entries[0]!)}${written}`);
  }
  const indent = indentOf(file, step.entries[0]!);
  const line = `${indent}  ${name}: ${value(false)}`;
  if (entry) return lineBehind(file, entry.keyRange[1], line);
  return lineBehind(file, endOfMap(step), `${indent}${key}:\n${line}`);
}

/** Puts lines at the end of a block mapping, indented as its entries are. */
export function withLines(file: SourceFile, map: YamlMap, lines: readonly string[]): Edit {
  const [first] = map.entries;
  if (!first || map.flow) throw new Error('A mapping in braces has no lines to add to');
  const indent = indentOf(file, first);
  return lineBehind(file, endOfMap(map), lines.map((line) => (line === '' ? '' : indent + line)).join('\n'));
}

/** Puts lines at the end of a block list, as a further item: the first is begun by a dash. */
export function withItem(file: SourceFile, list: YamlNode, lines: readonly string[]): Edit {
  const items = list.kind === 'list' ? list.items : [];
  const last = items.at(-1);
  if (!last) throw new Error('An empty array has no place to append to');
  const start = file.text.lastIndexOf('-', last.range[0] - 1);
  const indent = ' '.repeat(positionOf(file, start).column - 1);
  const blank = hasBlankLines(file, list) ? '\n' : '';
  const written = lines.map((line, i) => (line === '' ? '' : `${indent}${i === 0 ? '- ' : '  '}${line}`));
  return lineBehind(file, endOf(last), blank + written.join('\n'));
}

/** Whether items of a list stand apart by blank lines. */
function hasBlankLines({ text }: SourceFile, list: YamlNode): boolean {
  return list.kind === 'list' && /\n[ \t]*\n/.test(text.slice(...list.range));
}

function insertion(at: number, text: string): Edit {
  return { range: [at, at], text };
}

/** A new line behind the one in which something ends, its comment passed over. */
function lineBehind({ text }: SourceFile, at: number, line: string): Edit {
  const end = text.indexOf('\n', at);
  return end < 0 ? insertion(text.length, `\n${line}\n`) : insertion(end, `\n${line}`);
}

function indentOf(file: SourceFile, { keyRange }: YamlEntry): string {
  return ' '.repeat(positionOf(file, keyRange[0]).column - 1);
}

/** Where the text of an entry ends. */
export function endOfEntry({ keyRange, value }: YamlEntry): number {
  return Math.max(keyRange[1], endOf(value));
}

function endOfMap(map: YamlMap): number {
  return Math.max(...map.entries.map(endOfEntry));
}

/** Where the text of a node ends: a block collection with its last part, since blank lines may follow that. */
export function endOf(node: YamlNode): number {
  if (node.kind === 'scalar' || node.flow) return node.range[1];
  const parts = node.kind === 'map' ? node.entries.map(endOfEntry) : node.items.map(endOf);
  return Math.max(node.range[0], ...parts);
}
