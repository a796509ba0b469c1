import { Option, type Command } from 'commander';
import { findExchange, exchangesOf } from '../../core/report/exchange.ts';
import { stepName } from '../../core/report/history.ts';
import type { ExitStatus, Io } from '../io.ts';
import { openRecord } from '../record.ts';
import { UsageFault } from '../usage-fault.ts';
import { openWorkspace } from '../workspace.ts';
import { didYouMean } from '../../core/diagnostics/suggest.ts';
import { showExchange } from '../view/exchange.ts';
import { paletteOf } from '../view/palette.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ run?: string; as: 'text' | 'json' }>;

/** `look [CALL]`: an exchange of a record as it was sent and received. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[call]', 'the name or number of a call; without one the last request')
      .option('--run <id>', 'the run; without one the newest record')
      .addOption(new Option('--as <form>', 'the form of the output').choices(['text', 'json']).default('text'))
      .action((call: string | undefined, options: Options) => run((io) => Promise.resolve(execute(call, options, io))));
    examples(sub, 'batharon look', 'batharon look arrivals', 'batharon look arrivals --run 0523-1412-7k');
  },
};

function execute(call: string | undefined, options: Options, io: Io): ExitStatus {
  const record = openRecord(openWorkspace(io.cwd), options.run);
  const exchanges = exchangesOf(record.events);
  const found = findExchange(exchanges, call);
  if (!found) {
    const names = [...new Set(exchanges.map(({ sent }) => stepName(sent.step)))];
    const advice =
      names.length === 0 ? 'It sent nothing.' : (didYouMean(call ?? '', names) ?? `It has ${names.join(', ')}.`);
    throw new UsageFault('call-not-found', `The record ${record.id} has no call "${call ?? ''}"`, advice);
  }
  if (options.as === 'json') {
    const { sent, answered, broken } = found;
    io.exit.out(
      `${JSON.stringify({ run: record.id, step: sent.step, request: sent.request, response: answered ?? broken ?? null }, null, 2)}\n`,
    );
  } else {
    io.exit.out(`${showExchange(found, record.id, record.body, paletteOf(io.colors))}\n`);
  }
  return 0;
}
