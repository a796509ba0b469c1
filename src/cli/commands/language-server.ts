import type { Command } from 'commander';
import path from 'node:path';
import { expectMuchWork } from '../../adapters/compiler.ts';
import { standardStreams } from '../../adapters/standard-streams.ts';
import { previewChain } from '../../core/engine/preview.ts';
import { exchangesBack, findExchange } from '../../core/report/exchange.ts';
import { serveEditor } from '../../language-server/server.ts';
import { CommandError } from '../../runner/command-error.ts';
import { namesOfRun } from '../../runner/known-names.ts';
import { openRecord } from '../../runner/record.ts';
import { openProject } from '../../runner/workspace.ts';
import type { ExitStatus, Io } from '../io.ts';
import { unsentChain } from '../unsent-chain.ts';
import { showExchange } from '../view/exchange.ts';
import { paletteOf } from '../view/palette.ts';
import { showPreviewed } from '../view/preview.ts';
import { examples, type CommandModule } from './definition.ts';

/** `language-server`: what editors that speak the Language Server Protocol start. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .option('--stdio', 'speak over standard input and output (the only way, and the default)')
      .action(() => run((io) => execute(io)));
    examples(sub, 'batharon language-server');
  },
};

function execute(io: Io): Promise<ExitStatus> {
  if (io.inIsTerminal) {
    const advice = 'Set it as the command of a language server there: batharon about editors.';
    throw new CommandError('invalid-option', 'The language server is started by an editor, not by hand', advice);
  }
  expectMuchWork();
  const plain = paletteOf(false);
  const texts = {
    preview: (folder: string, file: string, call: string) =>
      inWords(async () => {
        const unsent = await unsentChain(
          path.relative(folder, file),
          { at: [], input: [] },
          'nothing to show',
          within(folder, io),
          'masked',
        );
        if (!unsent) return `${call} cannot be shown: the chain has problems, or an input has no value.`;
        const { workspace, chain, context } = unsent;
        const all = await previewChain(context, namesOfRun(chain, workspace, undefined));
        return all
          .filter(({ name }) => name === call)
          .map((each) => showPreviewed(each, plain))
          .join('\n\n');
      }),
    exchange: (folder: string, run: string, call: string) => {
      const record = openRecord(openProject(folder), run);
      const found = findExchange(exchangesBack(record.journal), call);
      return found ? showExchange(found, record.id, record.body, plain) : `No exchange of ${call} is recorded.`;
    },
  };
  return serveEditor({ ...standardStreams(), environment: io.environment, texts });
}

/** Nobody is asked, and no standard input is read: both belong to the editor. */
function within(cwd: string, io: Io): Io {
  return { ...io, cwd, mayAsk: false, readInput: () => Promise.resolve('') };
}

async function inWords(make: () => Promise<string>): Promise<string> {
  try {
    return await make();
  } catch (error) {
    if (error instanceof CommandError) return `${error.message}. ${error.advice ?? ''}`.trim();
    throw error;
  }
}
