import type { Range } from '../diagnostics/problem.ts';
import { findFunction } from '../expression/functions/list.ts';
import { evaluate } from '../expression/evaluate.ts';
import { frameOf } from '../expression/frame.ts';
import { partsOf, type Node, type PathNode } from '../expression/model.ts';
import { findPages } from '../reference/find.ts';
import { signatureOf } from '../reference/functions.ts';
import { nameAbout } from '../reference/names.ts';
import { showValue } from '../value/show.ts';
import type { Maybe } from '../value/value.ts';
import type { LastRun } from './recorded.ts';
import { cursorAt } from './cursor.ts';
import { fieldsOf } from './complete.ts';
import type { Spot, Symbols } from './symbols.ts';
import type { SourceFile } from '../diagnostics/source.ts';
import type { FileSurroundings } from './surroundings.ts';
import { MAX_SHOWN } from './members.ts';

/** What is said of a place, as Markdown. */
export type Hover = Readonly<{ range: Range; text: string }>;

/** What a key, a function, a name or a path at an offset means; for a name or path, what it was in the last run. */
export function hoverAt(
  file: SourceFile,
  offset: number,
  kind: 'chain' | 'project',
  symbols: Symbols | undefined,
  around: FileSurroundings,
): Hover | undefined {
  return ofExpression(offset, symbols, around) ?? ofBinding(offset, symbols, around) ?? ofKey(file, offset, kind);
}

/** What a message code means. */
export function codeHover(code: string, range: Range): Hover | undefined {
  const page = findPages(code).find(({ kind }) => kind === 'code');
  return page && { range, text: [`**${page.heading}**`, ...page.paragraphs].join('\n\n') };
}

function ofExpression(offset: number, symbols: Symbols | undefined, around: FileSurroundings): Hover | undefined {
  const spot = symbols?.spots.find(({ range: [start, end] }) => offset >= start && offset <= end);
  const node = spot && innermost(spot.tree, (each) => isAt(spot.source.locate(each.range), offset));
  if (!spot || !node) return undefined;
  if (node.kind === 'call' && isAt(spot.source.locate(node.nameRange), offset)) {
    const definition = findFunction(node.name);
    if (!definition) return undefined;
    const [expression, result] = definition.example;
    const text = `\`${signatureOf(definition)}\`\n\n${definition.about}\n\n\`${expression}\` gives \`${result}\``;
    return { range: spot.source.locate(node.nameRange), text };
  }
  return node.kind === 'path' ? ofPath(node, spot, around) : undefined;
}

function ofPath(path: PathNode, spot: Spot, around: FileSurroundings): Hover | undefined {
  const range = spot.source.locate(path.range);
  const { start } = path;
  const text = spot.source.text.slice(...path.range);
  const name = start.kind === 'name' ? start.name : start.kind === 'body' ? '$' : '@';
  const info = start.kind === 'name' ? spot.place.names.get(name) : undefined;
  const about = info ? `${info.kind ?? 'value'}, ${info.by}` : (nameAbout(text) ?? nameAbout(name));
  const conditions = (info?.under ?? []).map((each) => `only if \`${each}\``);
  const last = lastOf(path, spot, around);
  return {
    range,
    text: [`\`${text}\``, ...(about ? [about] : []), ...conditions, ...(last ? [last] : [])].join('\n\n'),
  };
}

/** What a path was in the last run. */
function lastOf(path: PathNode, { place }: Spot, around: FileSurroundings): string | undefined {
  const run = around.lastRun();
  if (!run || path.start.kind === 'item') return undefined;
  const response = place.response && place.step !== undefined ? run.response(place.step) : undefined;
  const own: Readonly<Record<string, Maybe>> = response ? { status: response.status } : {};
  const named = (name: string) => (place.names.has(name) ? run.value(name) : own[name]);
  const { value } = evaluate(path, frameOf(response?.body, named));
  const shown = value === undefined ? shownName(path, run) : showValue(value, MAX_SHOWN);
  return shown === undefined ? undefined : `last run, ${run.when}: \`${shown}\``;
}

/** A name whose value is masked, or not recorded whole. */
function shownName({ start, segments }: PathNode, run: LastRun): string | undefined {
  return start.kind === 'name' && segments.length === 0 ? run.shown(start.name) : undefined;
}

/** A name where it is bound. */
function ofBinding(offset: number, symbols: Symbols | undefined, around: FileSurroundings): Hover | undefined {
  const found = symbols?.occurrences.find(({ range, isBinding }) => isBinding && isAt(range, offset));
  if (!symbols || !found) return undefined;
  const name = symbols.nameOf(found.symbol);
  const run = around.lastRun();
  const shown = run?.shown(name);
  const reads = symbols.occurrences.filter((each) => each.symbol === found.symbol && !each.isBinding).length;
  const parts = [`\`${name}\``, `read ${reads === 1 ? 'once' : `${reads} times`} in this chain`];
  return {
    range: found.range,
    text: [...parts, ...(shown === undefined ? [] : [`last run, ${run!.when}: \`${shown}\``])].join('\n\n'),
  };
}

function ofKey(file: SourceFile, offset: number, kind: 'chain' | 'project'): Hover | undefined {
  let end = offset;
  while (/[\w-]/.test(file.text[end] ?? '')) end++;
  if (!/^\s*:/.test(file.text.slice(end))) return undefined;
  const cursor = cursorAt(file.text, end);
  if (cursor.role === 'value') return undefined;
  const fields = fieldsOf(kind);
  const field = fields.keysOf(fields.at(cursor)).find(({ name }) => name === cursor.text);
  if (!field?.about) return undefined;
  return {
    range: [cursor.start, end],
    text: `\`${field.name}\`${field.required ? ' (required)' : ''}\n\n${field.about}`,
  };
}

function innermost(tree: Node, isHere: (node: Node) => boolean): Node | undefined {
  if (!isHere(tree)) return undefined;
  for (const part of partsOf(tree)) {
    const inner = innermost(part, isHere);
    if (inner) return inner;
  }
  return tree;
}

function isAt([start, end]: Range, offset: number): boolean {
  return offset >= start && offset <= end;
}
