import type { CodeAction } from 'vscode-languageserver/node';
import type { Feature } from '../feature.ts';

/** Corrections of what is wrong: those that leave no doubt are preferred. */
export const actions: Feature = {
  capabilities: { codeActionProvider: { codeActionKinds: ['quickfix'] } },
  register(connection, desk) {
    connection.onCodeAction(({ textDocument, range, context }): CodeAction[] => {
      const opened = desk.opened(textDocument.uri);
      if (!opened) return [];
      const { lines, file } = opened.buffer;
      const [from, to] = [lines.offsetAt(range.start), lines.offsetAt(range.end)];
      const here = desk.checker.problemsOf(file).filter((each) => each.range[0] <= to && each.range[1] >= from);
      return here.flatMap(({ code, correction }): CodeAction[] => {
        if (!correction) return [];
        const { title, isSure, range: place, text } = correction;
        const diagnostics = context.diagnostics.filter((each) => each.code === code);
        const edit = { changes: { [textDocument.uri]: [{ range: lines.rangeOf(place), newText: text }] } };
        return [{ title, kind: 'quickfix', isPreferred: isSure, diagnostics, edit }];
      });
    });
  },
};
