import { callsOf } from '../../core/chain/steps/inside.ts';
import type { Feature } from '../feature.ts';
import { show } from '../show.ts';

const PREVIEW = 'batharon.preview';
const LAST_EXCHANGE = 'batharon.lastExchange';

/** Above each call: its request as it would be sent, and its last recorded exchange. Neither sends anything. */
export const lenses: Feature = {
  capabilities: {
    codeLensProvider: { resolveProvider: false },
    executeCommandProvider: { commands: [PREVIEW, LAST_EXCHANGE] },
  },
  register(connection, desk) {
    connection.onCodeLens(({ textDocument }) => {
      const opened = desk.opened(textDocument.uri);
      const chain = opened?.kind === 'chain' ? opened.project.chainAt(opened.buffer.file) : undefined;
      if (!opened || !chain) return [];
      const { lines, file } = opened.buffer;
      const run = opened.project.around(file).lastRun();
      return callsOf(chain).flatMap(({ name, nameSource }) => {
        const range = lines.rangeOf(nameSource.locate([0, nameSource.text.length]));
        const last = run?.response(name);
        const args = [textDocument.uri, name];
        return [
          { range, command: { title: 'preview', command: PREVIEW, arguments: args } },
          ...(last
            ? [
                {
                  range,
                  command: {
                    title: `last: ${last.status}, ${run!.when}`,
                    command: LAST_EXCHANGE,
                    arguments: [...args, run!.id],
                  },
                },
              ]
            : []),
        ];
      });
    });
    connection.onExecuteCommand(async ({ command, arguments: args = [] }) => {
      const [uri = '', call = '', run = ''] = args.map(String);
      const opened = desk.opened(uri);
      if (!opened) return null;
      const { project, buffer } = opened;
      const text =
        command === PREVIEW
          ? await desk.texts.preview(project.folder, buffer.file, call)
          : desk.texts.exchange(project.folder, run, call);
      show(connection, 'info', text);
      return text;
    });
  },
};
