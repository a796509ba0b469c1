import type { Command } from 'commander';
import { serveStandIn, type ServedRequest } from '../../adapters/stand-in-server.ts';
import { exchangesOf } from '../../core/report/exchange.ts';
import { StandIn } from '../../core/report/stand-in.ts';
import { counted } from '../../core/value/show.ts';
import { visible } from '../../core/value/visible.ts';
import { CommandError } from '../../runner/command-error.ts';
import { openRecord } from '../../runner/record.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import type { ExitStatus, Io } from '../io.ts';
import { paletteOf } from '../view/palette.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ run?: string; port?: string; timed?: boolean }>;

/** `serve --run RUN`: a local server that answers as that of a recorded run did, to test one's own code against. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .option('--run <id>', 'run whose responses are given (default: the newest record)')
      .option('--port <number>', 'port to listen on (default: a free one)')
      .option('--timed', 'take as long for each response as it took when it was recorded')
      .action((options: Options) => run((io) => execute(options, io)));
    examples(sub, 'batharon serve', 'batharon serve --run last-good --port 8080', 'batharon serve --timed');
  },
};

async function execute({ run, port = '0', timed = false }: Options, io: Io): Promise<ExitStatus> {
  if (!/^\d{1,5}$/.test(port) || Number(port) > 65_535)
    throw new CommandError('invalid-option', `"${port}" is not a port`);
  const record = openRecord(openWorkspace(io.cwd), run, io);
  const exchanges = exchangesOf([...record.journal]);
  const { strong, quiet, bad } = paletteOf(io.colors);
  let [count, unknown] = [0, 0];
  const served = ({ method, target, answer, isKnown }: ServedRequest): void => {
    count++;
    if (!isKnown) unknown++;
    const line = visible(`${method} ${target}   ${answer}`);
    io.exit.out(`${isKnown ? line : bad(line)}\n`);
  };
  const standInAt = (origin: string) => new StandIn(exchanges, (ref) => ref && record.body(ref), origin);
  const server = await serveStandIn({ port: Number(port), timed, standInAt, served }).catch((error: Error) => {
    const { code } = error as NodeJS.ErrnoException;
    const why = code === 'EADDRINUSE' ? 'another program is listening there' : error.message;
    throw new CommandError(
      'invalid-option',
      `Port ${port} cannot be listened on: ${why}`,
      'Without --port a free one is taken.',
    );
  });
  const { size, leftOut } = server.standIn;
  if (size === 0) {
    server.close();
    throw new CommandError('call-not-found', `The record ${record.id} has no request that was answered`);
  }
  io.exit.out(`The responses of run ${record.id} are served at ${strong(server.url)}: ${counted(size, 'request')}\n`);
  if (leftOut > 0) io.exit.out(`${counted(leftOut, 'response')} whose body is not in the record: left out\n`);
  io.exit.out(`${quiet('Ctrl-C stops it.')}\n\n`);
  return new Promise((resolve) => {
    io.onInterrupt(() => {
      server.close();
      io.exit.out(`\n${counted(count, 'request')}${unknown > 0 ? `, ${unknown} of them not in the record` : ''}\n`);
      resolve(unknown > 0 ? 1 : 0);
    });
  });
}
