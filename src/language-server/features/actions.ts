import type { CodeAction } from 'vscode-languageserver/node';
import { correctedLine } from '../../core/diagnostics/fix.ts';
import { checkedChain } from '../../runner/workspace.ts';
import path from 'node:path';
import type { Feature } from '../feature.ts';

/** Corrections of what is wrong: those that leave no doubt are preferred. */
export const actions: Feature = {
  capabilities: { codeActionProvider: { codeActionKinds: ['quickfix'] } },
  register(connection, desk) {
    connection.onCodeAction(({ textDocument, range, context }): CodeAction[] => {
      const opened = desk.opened(textDocument.uri);
      if (!opened) return [];
      const { buffer, project, kind } = opened;
      const { lines, file } = buffer;
      const source = project.sourceOf(file);
      const workspace = project.workspace();
      const all =
        kind === 'project' || !source
          ? workspace.diagnostics
          : checkedChain(workspace, source, project.at()).diagnostics;
      const [from, to] = [lines.offsetAt(range.start), lines.offsetAt(range.end)];
      const here = all.filter(
        (each) =>
          each.edit &&
          path.resolve(project.folder, each.file.path) === file &&
          each.range[0] <= to &&
          each.range[1] >= from,
      );
      return here.map((each) => ({
        title: `Write ${(correctedLine(each) ?? each.edit!.text).trim()}`,
        kind: 'quickfix',
        isPreferred: each.fix?.sure === true,
        diagnostics: context.diagnostics.filter(({ code }) => code === each.code),
        edit: {
          changes: { [textDocument.uri]: [{ range: lines.rangeOf(each.edit!.range), newText: each.edit!.text }] },
        },
      }));
    });
  },
};
