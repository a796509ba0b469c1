import type { TextEdit } from 'vscode-languageserver/node';
import { occurrenceAt, placesOf, refusedName } from '../../core/editor/rename.ts';
import type { Feature } from '../feature.ts';
import { show } from '../show.ts';
import { locationOf, usesElsewhere, whereIs } from './navigation.ts';

/** Gives a name another one in its chain, and an input or output in the chains that use it too. */
export const rename: Feature = {
  capabilities: { renameProvider: { prepareProvider: true } },
  register(connection, desk) {
    connection.onPrepareRename(({ textDocument, position }) => {
      const at = whereIs(desk, textDocument.uri, position);
      const found = at && occurrenceAt(at.view.symbols, at.offset);
      if (!at || !found) return null;
      const { range } = locationOf(desk, at.view, found.range);
      return { range, placeholder: at.view.symbols.nameOf(found.symbol) };
    });
    connection.onRenameRequest(async ({ textDocument, position, newName }) => {
      const { ErrorCodes, ResponseError } = await import('vscode-languageserver/node');
      const refuse = (why: string) => new ResponseError<void>(ErrorCodes.InvalidRequest, why);
      const at = whereIs(desk, textDocument.uri, position);
      const found = at && occurrenceAt(at.view.symbols, at.offset);
      if (!at || !found) return refuse('There is no name of a chain here');
      const { view, project } = at;
      const refused = refusedName(view.symbols, found.symbol, newName);
      if (refused !== undefined) return refuse(refused);
      const places = [
        ...placesOf(view.symbols, found.symbol).map((range) => ({ view, range })),
        ...usesElsewhere(view, found.symbol, project),
      ];
      const changes: Record<string, TextEdit[]> = {};
      for (const each of places) {
        const { uri, range } = locationOf(desk, each.view, each.range);
        (changes[uri] ??= []).push({ range, newText: newName });
      }
      const roles = [...view.symbols.roles(found.symbol)];
      if (roles.length > 0)
        show(
          connection,
          'warning',
          `${view.symbols.nameOf(found.symbol)} is an ${roles.join(' and an ')} of ${view.chain.name}: command lines, files of inputs and programs that name it are not changed`,
        );
      return { changes };
    });
  },
};
