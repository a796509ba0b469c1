import type { CompletionItem } from 'vscode-languageserver/node';
import { completionsAt } from '../../core/editor/complete.ts';
import type { Completion } from '../../core/editor/completion.ts';
import type { Feature } from '../feature.ts';
import type { Lines } from '../positions.ts';

/** Kinds of completion as the protocol numbers them (LSP 3.17, CompletionItemKind). */
const KINDS: Readonly<Record<Completion['sort'], CompletionItem['kind'] & number>> = {
  key: 10,
  word: 12,
  name: 6,
  member: 5,
  function: 3,
  file: 17,
  request: 23,
};

export const completion: Feature = {
  capabilities: { completionProvider: { triggerCharacters: ['.', '{', ' ', ':', '$', '@', '/', '[', '(', '?', ','] } },
  register(connection, desk) {
    connection.onCompletion(({ textDocument, position }) => {
      const opened = desk.opened(textDocument.uri);
      if (!opened) return [];
      const { buffer, project, kind } = opened;
      const { lines, file } = buffer;
      const found = completionsAt(
        { path: file, text: lines.text },
        lines.offsetAt(position),
        kind,
        project.piecesOf(file),
        project.around(file),
      );
      return found.map((each) => itemOf(each, lines));
    });
  },
};

function itemOf({ label, sort, detail, about, range, insert, rank = 1 }: Completion, lines: Lines): CompletionItem {
  return {
    label,
    kind: KINDS[sort],
    sortText: `${rank} ${label}`,
    filterText: insert.trim().replace(/[:(]$/, ''),
    textEdit: { range: lines.rangeOf(range), newText: insert },
    ...(detail ? { detail } : {}),
    ...(about ? { documentation: { kind: 'markdown', value: about } } : {}),
  };
}
