import type { Command } from 'commander';
import { serveStandIn, type ServedRequest } from '../../adapters/stand-in-server.ts';
import { exchangesOf } from '../../core/report/exchange.ts';
import { DescribedStandIn } from '../../core/report/described-stand-in.ts';
import { StandIn } from '../../core/report/stand-in.ts';
import { counted } from '../../core/value/show.ts';
import { visible } from '../../core/value/visible.ts';
import { CommandError } from '../../runner/command-error.ts';
import { openRecord } from '../../runner/record.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import { descriptionAt } from '../described.ts';
import type { ExitStatus, Io } from '../io.ts';
import { paletteOf } from '../view/palette.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ run?: string; contract?: string; port?: string; timed?: boolean }>;

/** What stands in for a server, and what is said of it. */
type Serving = Readonly<{
  standInAt(origin: string): StandIn | DescribedStandIn;
  /** What the line before its address says. */
  what: string;
  noun: string;
  unknown: string;
  /** Why it cannot serve, where it has nothing. */
  nothing: string;
}>;

/** `serve`: a local server that answers as that of a recorded run did, or as a description says, to test one's own code against. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .option('--run <id>', 'run whose responses are given (default: the newest record)')
      .option('--contract <file>', 'OpenAPI description whose examples and schemas are the responses')
      .option('--port <number>', 'port to listen on (default: a free one)')
      .option('--timed', 'take as long for each response as it took when it was recorded')
      .action((options: Options) => run((io) => execute(options, io)));
    examples(
      sub,
      'batharon serve',
      'batharon serve --run last-good --port 8080',
      'batharon serve --timed',
      'batharon serve --contract openapi/harbour.yaml',
    );
  },
};

async function execute(options: Options, io: Io): Promise<ExitStatus> {
  const { port = '0', timed = false } = options;
  if (!/^\d{1,5}$/.test(port) || Number(port) > 65_535)
    throw new CommandError('invalid-option', `"${port}" is not a port`);
  const { standInAt, what, noun, unknown: word, nothing } = servingOf(options, io);
  const { strong, quiet, bad } = paletteOf(io.colors);
  let [count, unknown] = [0, 0];
  const served = ({ method, target, answer, isKnown }: ServedRequest): void => {
    count++;
    if (!isKnown) unknown++;
    const line = visible(`${method} ${target}   ${answer}`);
    io.exit.out(`${isKnown ? line : bad(line)}\n`);
  };
  const how = { port: Number(port), timed, standInAt, served, unknown: word };
  const server = await serveStandIn(how).catch((error: Error) => {
    const { code } = error as NodeJS.ErrnoException;
    const why = code === 'EADDRINUSE' ? 'another program is listening there' : error.message;
    throw new CommandError(
      'invalid-option',
      `Port ${port} cannot be listened on: ${why}`,
      'Without --port a free one is taken.',
    );
  });
  const { standIn } = server;
  if (standIn.size === 0) {
    server.close();
    throw new CommandError('call-not-found', nothing);
  }
  io.exit.out(`${what} at ${strong(server.url)}: ${counted(standIn.size, noun)}\n`);
  const leftOut = 'leftOut' in standIn ? standIn.leftOut : 0;
  if (leftOut > 0) io.exit.out(`${counted(leftOut, 'response')} whose body is not in the record: left out\n`);
  io.exit.out(`${quiet('Ctrl-C stops it.')}\n\n`);
  return new Promise((resolve) => {
    io.onInterrupt(() => {
      server.close();
      io.exit.out(`\n${counted(count, 'request')}${unknown > 0 ? `, ${unknown} of them ${word}` : ''}\n`);
      resolve(unknown > 0 ? 1 : 0);
    });
  });
}

function servingOf({ run, contract: file, timed }: Options, io: Io): Serving {
  if (file === undefined) {
    const record = openRecord(openWorkspace(io.cwd), run, io);
    const exchanges = exchangesOf([...record.journal]);
    return {
      standInAt: (origin) => new StandIn(exchanges, (ref) => ref && record.body(ref), origin),
      what: `The responses of run ${record.id} are served`,
      noun: 'request',
      unknown: 'not in the record',
      nothing: `The record ${record.id} has no request that was answered`,
    };
  }
  if (run !== undefined || timed)
    throw new CommandError('invalid-option', `--${run === undefined ? 'timed' : 'run'} is for a recorded run`);
  const contract = descriptionAt(file, io);
  const { title, version } = contract.description;
  return {
    standInAt: () => new DescribedStandIn(contract),
    what: `${title} ${version} is served by its description`,
    noun: 'operation',
    unknown: 'not as described',
    nothing: `${file} describes no operation`,
  };
}
