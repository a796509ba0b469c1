import path from 'node:path';
import type { Location } from 'vscode-languageserver/node';
import { namesOfUsed } from '../../core/editor/symbols.ts';
import { occurrenceAt } from '../../core/editor/rename.ts';
import type { Range } from '../../core/diagnostics/problem.ts';
import { uriOf } from '../buffers.ts';
import type { Desk } from '../desk.ts';
import type { Feature } from '../feature.ts';
import type { ChainView, ProjectView } from '../project-view.ts';

/** From a name to where it is bound, and to all places where it is read; from the name of a chain to its file. */
export const navigation: Feature = {
  capabilities: { definitionProvider: true, referencesProvider: true },
  register(connection, desk) {
    connection.onDefinition(({ textDocument, position }) => {
      const at = whereIs(desk, textDocument.uri, position);
      if (!at) return [];
      const { view, project, offset } = at;
      const used = usedAt(view, project, offset);
      if (used) return used.map((each) => locationOf(desk, each.view, each.range));
      const found = occurrenceAt(view.symbols, offset);
      if (!found) return [];
      const bindings = view.symbols.occurrences.filter((each) => each.symbol === found.symbol && each.isBinding);
      return bindings.map(({ range }) => locationOf(desk, view, range));
    });
    connection.onReferences(({ textDocument, position, context }) => {
      const at = whereIs(desk, textDocument.uri, position);
      const found = at && occurrenceAt(at.view.symbols, at.offset);
      if (!at || !found) return [];
      const { view, project } = at;
      const { symbols } = view;
      const own = symbols.occurrences
        .filter(({ symbol, isBinding }) => symbol === found.symbol && (context.includeDeclaration || !isBinding))
        .map(({ range }) => locationOf(desk, view, range));
      return [
        ...own,
        ...usesElsewhere(view, found.symbol, project).map((each) => locationOf(desk, each.view, each.range)),
      ];
    });
  },
};

type Found = Readonly<{ view: ChainView; range: Range }>;

export function whereIs(desk: Desk, uri: string, position: { line: number; character: number }) {
  const opened = desk.opened(uri);
  const view = opened?.kind === 'chain' ? opened.project.viewOf(opened.buffer.file) : undefined;
  return opened && view && { view, project: opened.project, offset: opened.buffer.lines.offsetAt(position) };
}

/** The chain that is named at a place, or its input or output. */
function usedAt({ file, chain }: ChainView, project: ProjectView, offset: number): readonly Found[] | undefined {
  const isAt = ([start, end]: Range) => offset >= start && offset <= end;
  for (const { file: source, of, name, range } of namesOfUsed(chain)) {
    const isFile = isAt(source.locate([0, source.text.length]));
    if (!isFile && !isAt(range)) continue;
    const used = project.viewOf(path.resolve(path.dirname(file), source.text));
    if (!used) return [];
    const named = of === 'input' ? used.chain.inputs : used.chain.outputs;
    const target = isFile ? ([0, 0] as const) : named.find((each) => each.name === name)?.nameRange;
    return target ? [{ view: used, range: target }] : [];
  }
  return undefined;
}

/** Where other chains pass an input of a chain, or read an output of it. */
export function usesElsewhere(view: ChainView, symbol: number, project: ProjectView): readonly Found[] {
  const roles = view.symbols.roles(symbol);
  const name = view.symbols.nameOf(symbol);
  if (roles.size === 0) return [];
  return project.usersOf(view.file).flatMap((file) => {
    const user = project.viewOf(file);
    const all = user ? namesOfUsed(user.chain) : [];
    const isIt = (source: string) => path.resolve(path.dirname(file), source) === view.file;
    return all
      .filter((each) => each.name === name && roles.has(each.of) && isIt(each.file.text))
      .map(({ range }) => ({ view: user!, range }));
  });
}

export function locationOf(desk: Desk, { file }: ChainView, range: Range): Location {
  return { uri: uriOf(file), range: desk.linesOf(file).rangeOf(range) };
}
