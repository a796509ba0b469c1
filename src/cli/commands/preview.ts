import { Option, type Command } from 'commander';
import { openSecrets } from '../../adapters/secrets.ts';
import { callsOf, type Chain } from '../../core/chain/model.ts';
import { hasErrors, sorted } from '../../core/diagnostics/source.ts';
import { didYouMean } from '../../core/diagnostics/suggest.ts';
import { curlCommand } from '../../core/draft/curl-command.ts';
import { previewChain, type KnownName, type PreviewedCall } from '../../core/engine/preview.ts';
import { boundNames, valueOfBound } from '../../core/report/bound.ts';
import { secretsFor } from '../endpoints.ts';
import { commandInputs } from '../inputs.ts';
import type { ExitStatus, Io } from '../io.ts';
import { newestRunOf, openRecord, wholeValue } from '../record.ts';
import { buildingContext } from '../start-run.ts';
import { UsageFault } from '../usage-fault.ts';
import { showDiagnostics, tally } from '../view/diagnostics.ts';
import { paletteOf } from '../view/palette.ts';
import { showPreviewed, textOfBody } from '../view/preview.ts';
import { loadChain, openProject, readAt, type Workspace } from '../workspace.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = Readonly<{
  take: readonly string[];
  takeFrom?: string;
  at: readonly string[];
  only?: string;
  run?: string;
  input: boolean;
  as: 'text' | 'json' | 'curl';
}>;

/** `preview CHAIN`: the requests that a run would send, with the origin of each value. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('<chain>', 'a chain file')
      .option('--take <name=value>', 'an input (may be given again)', several, [])
      .option('--take-from <file>', 'inputs from a YAML or JSON file')
      .option('--at <deployment>', 'where the apis run', several, [])
      .option('--only <call>', 'one call alone')
      .option('--run <id>', 'the run whose values stand for what is not known yet; the last without it')
      .option('--no-input', 'ask for nothing: a missing input is an error')
      .addOption(new Option('--as <form>', 'the form of the output').choices(['text', 'json', 'curl']).default('text'))
      .action((chain: string, options: Options) => run((io) => execute(chain, options, io)));
    examples(
      sub,
      'batharon preview chains/berth.chain.yaml',
      'batharon preview chains/berth.chain.yaml --only reserve --take day=2026-05-24',
      'batharon preview chains/berth.chain.yaml --only arrivals --as curl',
    );
  },
};

async function execute(file: string, options: Options, io: Io): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const at = readAt(options.at, io.environment, workspace.project);
  const { chain, diagnostics, used } = loadChain(workspace, file, at);
  const store = openSecrets(workspace.folder, io.environment);
  const found = [...workspace.diagnostics, ...diagnostics];
  const secrets = chain ? secretsFor(workspace, [chain, ...used.chains], at, store).values : {};
  const checked = hasErrors(found) ? undefined : chain;
  const { inputs, host, diagnostics: ofInputs } = await commandInputs(checked, file, secrets, options, workspace, io);
  found.push(...ofInputs);
  const palette = paletteOf(io.colors);
  if (found.length > 0) io.exit.err(`${showDiagnostics(sorted(found), palette, io.columns)}\n`);
  if (!chain || !inputs || hasErrors(found)) {
    io.exit.err(`${tally(found)}; nothing to show\n`);
    return 2;
  }
  const context = buildingContext({ workspace, chain, used, at, inputs, secrets, host }, io);
  const all = previewChain(context, namesOfRun(chain, workspace, options.run));
  const shown = options.only === undefined ? all : all.filter(({ name }) => name === options.only);
  if (options.only !== undefined && shown.length === 0) {
    const names = callsOf(chain).map(({ name }) => name);
    const advice = didYouMean(options.only, names) ?? `It has ${names.join(', ')}.`;
    throw new UsageFault('call-not-found', `The chain ${chain.name} has no call "${options.only}"`, advice);
  }
  io.exit.out(`${formed(shown, options.as, io)}\n`);
  return shown.some((each) => 'problem' in each) ? 1 : 0;
}

/** The names that the last run of this very chain kept. */
function namesOfRun(chain: Chain, workspace: Workspace, run: string | undefined): ReadonlyMap<string, KnownName> {
  const names = new Map<string, KnownName>();
  const record = run === undefined ? newestRunOf(workspace, chain.file.path) : openRecord(workspace, run);
  if (!record) return names;
  for (const bound of boundNames(record.events)) {
    const value = bound.call === undefined ? undefined : (valueOfBound(bound) ?? wholeValue(bound, record));
    if (value !== undefined) names.set(bound.name, { value, run: record.id });
  }
  return names;
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
    shown.map(({ name, endpoint, when, origins, ...rest }) => ({
      call: name,
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
