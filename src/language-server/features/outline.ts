import type { DocumentSymbol } from 'vscode-languageserver/node';
import { outlineOf, type OutlineEntry } from '../../core/editor/outline.ts';
import type { Feature } from '../feature.ts';
import type { Lines } from '../positions.ts';

/** Sorts of parts as the protocol numbers them (LSP 3.17, SymbolKind). */
const KINDS: Readonly<Record<OutlineEntry['sort'], DocumentSymbol['kind']>> = {
  inputs: 3,
  input: 13,
  call: 12,
  loop: 18,
  branch: 23,
  step: 24,
  outputs: 3,
  output: 13,
  api: 11,
};

export const outline: Feature = {
  capabilities: { documentSymbolProvider: true },
  register(connection, desk) {
    connection.onDocumentSymbol(({ textDocument }) => {
      const opened = desk.opened(textDocument.uri);
      if (!opened) return [];
      const { lines, file } = opened.buffer;
      return outlineOf({ path: file, text: lines.text }).map((entry) => symbolOf(entry, lines));
    });
  },
};

function symbolOf({ label, detail, sort, range, name, inside }: OutlineEntry, lines: Lines): DocumentSymbol {
  return {
    name: label === '' ? '-' : label,
    detail,
    kind: KINDS[sort],
    range: lines.rangeOf(range),
    selectionRange: lines.rangeOf(name),
    children: inside.map((each) => symbolOf(each, lines)),
  };
}
