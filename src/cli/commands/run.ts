import type { Command } from 'commander';
import { partOf, shareOf } from '../run-parts.ts';
import { prepareAndRun, type RunOptions } from '../prepared-run.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = Omit<RunOptions, 'part' | 'share'> & Readonly<{ first?: string; spread?: string; share?: string }>;

/** `run CHAIN`: checks the files, sends what the chain says, judges, and records all of it. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('<chain>', 'the chain file')
      .option('--take <name=value>', 'an input of the chain (may be given again)', several, [])
      .option('--take-from <file>', 'inputs from a YAML or JSON file')
      .option('--no-input', 'never ask; what is missing is an error')
      .option('--at <deployment>', 'where the apis run: live, or harbour=live for one api', several, [])
      .option('--may-change <deployment>', 'allow changes at a guarded deployment, by name', several, [])
      .option('--out <file>', 'write what the chain gives as JSON; - for standard output')
      .option('--first <n>', 'only the first so many items of each outermost loop')
      .option('--spread <n>', 'only so many items of each outermost loop, spread over it')
      .option('--strict', 'a call that passed only after more than one try counts as failed')
      .option('--stay', 'wait for a spent quota instead of pausing the run')
      .option('--share <part>', 'take a part of every pace and quota, such as 1/3')
      .option('--ask', 'show each request that changes something, and ask before it is sent')
      .option('--accept', 'ask about files that a response does not equal, and write them')
      .option('--now <time>', 'the clock of now() and today()')
      .option('--seed <text>', 'the seed of uuid() and random values')
      .option('--quiet', 'show failures only')
      .action((chain: string, options: Options) =>
        run((io) => prepareAndRun(chain, { ...options, part: partOf(options), share: shareOf(options.share) }, io)),
      );
    examples(
      sub,
      'batharon run chains/berth.chain.yaml',
      'batharon run chains/berth.chain.yaml --take day=2026-05-23 --at live',
      'batharon run chains/berth.chain.yaml --out - | jq .berth',
    );
  },
};
