import type { Command } from 'commander';
import { didYouMean } from '../../core/diagnostics/suggest.ts';
import { curlCommand } from '../../core/draft/curl-command.ts';
import { previewChain, type PreviewedCall } from '../../core/engine/preview.ts';
import type { ExitStatus, Io } from '../io.ts';
import { namesOfRun } from '../../runner/known-names.ts';
import { CommandError } from '../../runner/command-error.ts';
import { paletteOf } from '../view/palette.ts';
import { showPreviewed, textOfBody } from '../view/preview.ts';
import { unsentChain } from '../unsent-chain.ts';
import { examples, type CommandModule } from './definition.ts';
import { chainOptions, formOption } from './options.ts';

type Options = Readonly<{
  input: readonly string[];
  inputsFrom?: string;
  at: readonly string[];
  setting: readonly string[];
  only?: string;
  run?: string;
  as: 'text' | 'json' | 'curl';
}>;

/** `preview CHAIN`: the requests that a run would send, with the origin of each value. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(chainOptions(sub.argument('<chain>', 'chain file')), 'curl')
      .option('--only <call>', 'show only this call')
      .option('--run <id>', 'run whose values stand in for values that are not known yet (default: the last)')
      .action((chain: string, options: Options) => run((io) => execute(chain, options, io)));
    examples(
      sub,
      'batharon preview chains/berth.chain.yaml',
      'batharon preview chains/berth.chain.yaml --only reserve --input day=2026-05-24',
      'batharon preview chains/berth.chain.yaml --only arrivals --as curl',
    );
  },
};

async function execute(file: string, options: Options, io: Io): Promise<ExitStatus> {
  const unsent = await unsentChain(file, options, 'nothing to show', io);
  if (!unsent) return 2;
  const { workspace, chain, context } = unsent;
  const all = await previewChain(context, namesOfRun(chain, workspace, options.run));
  const shown = options.only === undefined ? all : all.filter(({ name }) => name === options.only);
  if (options.only !== undefined && shown.length === 0) {
    const names = all.map(({ name }) => name);
    const advice = didYouMean(options.only, names) ?? `Its calls are ${names.join(', ')}.`;
    throw new CommandError('call-not-found', `The chain ${chain.name} has no call "${options.only}"`, advice);
  }
  io.exit.out(`${formed(shown, options.as, io)}\n`);
  return shown.some((each) => 'problem' in each) ? 1 : 0;
}

function formed(shown: readonly PreviewedCall[], as: Options['as'], io: Io): string {
  if (as === 'text') return shown.map((each) => showPreviewed(each, paletteOf(io.colors))).join('\n\n');
  if (as === 'curl') {
    return shown
      .map((each) =>
        'problem' in each
          ? `# ${each.name}: ${each.problem.message}`
          : `# ${each.name}\n${curlCommand(each.request, textOfBody(each.request.body))}`,
      )
      .join('\n\n');
  }
  return JSON.stringify(
    shown.map(({ name, chain, isAnywhere: _isAnywhere, endpoint, when, origins, ...rest }) => ({
      call: name,
      chain: chain ?? null,
      api: endpoint?.api ?? null,
      deployment: endpoint?.deployment ?? null,
      when: when ?? null,
      ...('problem' in rest
        ? { problem: rest.problem }
        : { request: { ...rest.request, body: textOfBody(rest.request.body) ?? null } }),
      origins,
    })),
    null,
    2,
  );
}
