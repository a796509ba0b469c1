import type { Command } from 'commander';
import { draftOf } from '../../core/draft/draft.ts';
import { exchangesBack, findExchange } from '../../core/report/exchange.ts';
import { CommandError } from '../../runner/command-error.ts';
import { openRecord } from '../../runner/record.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import { groundOf } from '../draft-ground.ts';
import type { ExitStatus, Io } from '../io.ts';
import { sampleOf } from '../recorded-sample.ts';
import { writeDraft } from '../write-draft.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ into: string; run?: string; api?: string }>;

/** `add NAME --into FILE`: the last exchange as a call at the end of a chain, without sending. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('<name>', 'name of the call')
      .requiredOption('--into <chain>', 'chain file to write or to append to; comments and layout are kept')
      .option('--run <id>', 'record to take the exchange from (default: the newest)')
      .option('--api <name>', 'name for a new API')
      .action((name: string, options: Options) => run((io) => Promise.resolve(execute(name, options, io))));
    examples(sub, 'batharon send GET /vessels/KM%20204%2F5', 'batharon add vessel --into chains/arrivals.chain.yaml');
  },
};

function execute(name: string, { into, run, api }: Options, io: Io): ExitStatus {
  const workspace = openWorkspace(io.cwd);
  const record = openRecord(workspace, run);
  const exchange = findExchange(exchangesBack(record.journal), undefined);
  if (!exchange)
    throw new CommandError(
      'call-not-found',
      `The record ${record.id} has no exchange`,
      'Send a request first: batharon send',
    );
  const isOwn = (id: string, x: number) => id === record.id && x === exchange.sent.x;
  const ground = groundOf(workspace, into, { api, name }, io, isOwn);
  if (ground.calls.has(name))
    throw new CommandError('duplicate-name', `${into} has a call "${name}" already`, 'Choose another name.');
  writeDraft(draftOf([sampleOf(exchange, record)], ground), into, workspace, io);
  return 0;
}
