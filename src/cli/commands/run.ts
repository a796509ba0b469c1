import type { Command } from 'commander';
import path from 'node:path';
import { openSecrets } from '../../adapters/secrets.ts';
import { changesNotAllowed } from '../../core/chain/changes.ts';
import { endpointOfCalls } from '../../core/chain/check.ts';
import { callsOf } from '../../core/chain/model.ts';
import { hasErrors, sorted, type Diagnostic } from '../../core/diagnostics/source.ts';
import { writeJson } from '../../core/value/json-write.ts';
import type { ExitStatus, Io } from '../io.ts';
import { secretsFor } from '../endpoints.ts';
import { commandInputs, type InputOptions } from '../inputs.ts';
import { acceptIn } from '../accept.ts';
import { askChange } from '../ask-change.ts';
import type { HostOptions } from '../run-host.ts';
import { secretsWarnings } from '../secrets-warnings.ts';
import { startRun } from '../start-run.ts';
import { UsageFault } from '../usage-fault.ts';
import { signInHelp } from '../../adapters/sign-in-help.ts';
import type { Share } from '../../core/pacing/pace.ts';
import type { Part } from '../../core/engine/context.ts';
import { loadChain, openProject, readAt, type Workspace } from '../workspace.ts';
import { showDiagnostics, tally } from '../view/diagnostics.ts';
import { paletteOf } from '../view/palette.ts';
import { RunView } from '../view/run-view.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = InputOptions &
  HostOptions &
  Readonly<{
    at: readonly string[];
    out?: string;
    quiet?: boolean;
    accept?: boolean;
    ask?: boolean;
    first?: string;
    spread?: string;
    share?: string;
    stay?: boolean;
    strict?: boolean;
    mayChange: readonly string[];
  }>;

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
      .action((chain: string, options: Options) => run((io) => execute(chain, options, io)));
    examples(
      sub,
      'batharon run chains/berth.chain.yaml',
      'batharon run chains/berth.chain.yaml --take day=2026-05-23 --at live',
      'batharon run chains/berth.chain.yaml --out - | jq .berth',
    );
  },
};

async function execute(file: string, options: Options, io: Io): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const at = readAt(options.at, io.environment, workspace.project);
  const { chain, diagnostics, used } = loadChain(workspace, file, at, options.accept);
  const store = openSecrets(workspace.folder, io.environment);
  const found: Diagnostic[] = [...workspace.diagnostics, ...diagnostics];
  const secrets = chain && secretsFor(workspace, [chain, ...used.chains], at, store);
  found.push(...(secrets?.diagnostics ?? []));
  for (const each of chain ? [chain, ...used.steps] : [])
    found.push(...changesNotAllowed(each, endpointOfCalls(each, workspace.project, at), options.mayChange));
  const canRun = chain && secrets && !hasErrors(found);
  const canAsk = options.input && io.inIsTerminal && io.errIsTerminal;
  if (options.accept && !canAsk) {
    throw new UsageFault('needs-terminal', '--accept asks before it writes a file, and there is no terminal to ask on');
  }
  if (options.ask && !canAsk) {
    throw new UsageFault('needs-terminal', '--ask asks before each change, and there is no terminal to ask on');
  }
  const checked = canRun ? chain : undefined;
  const {
    inputs,
    host,
    diagnostics: ofInputs,
  } = await commandInputs(checked, file, secrets?.values ?? {}, options, workspace, io);
  found.push(...ofInputs, ...secretsWarnings(workspace, store));

  // What goes wrong is told beside the data when standard output is the data.
  const write = options.out === '-' ? io.exit.err : io.exit.out;
  const palette = paletteOf(io.colors && (options.out === '-' ? io.errIsTerminal : true));
  if (found.length > 0) io.exit.err(`${showDiagnostics(sorted(found), palette, io.columns)}\n`);
  if (hasErrors(found) || !chain || !secrets || !inputs) {
    io.exit.err(`${tally(found)}; nothing was sent\n`);
    return 2;
  }
  const nameWidth = Math.min(24, Math.max(12, ...callsOf(chain).map(({ name }) => name.length)));
  const view = new RunView({
    write,
    palette,
    columns: io.columns,
    nameWidth,
    quiet: options.quiet ?? false,
    columnsNow: io.columnsNow,
    moves: options.out === '-' ? io.errIsTerminal : io.outIsTerminal,
  });
  const plan = {
    workspace,
    chain,
    used,
    help: signInHelp(canAsk, io.exit),
    inputs,
    at,
    secrets: secrets.values,
    options: { at: [...options.at] },
    purpose: 'run' as const,
    listeners: [view.listen],
    host,
    now: options.now ?? null,
    accept: options.accept ? acceptIn(workspace, file, palette, io) : undefined,
    part: partOf(options),
    share: shareOf(options.share),
    stay: options.stay ?? false,
    strict: options.strict ?? false,
    ask: options.ask ? askChange(palette, io) : undefined,
  };
  const { exit, gives } = await startRun(plan, io);
  if (options.out !== undefined) writeGives(options.out, gives, workspace, io);
  return exit;
}

/** `--share 1/3`. */
function shareOf(said: string | undefined): Share | undefined {
  if (said === undefined) return undefined;
  const [, part, of] = /^(\d+)\/(\d+)$/.exec(said)?.map(Number) ?? [];
  if (part === undefined || of === undefined || part < 1 || part > of)
    throw new UsageFault('bad-option', `--share wants a part such as 1/3, and "${said}" is none`);
  return { part, of };
}

/** `--first 3` or `--spread 3`. */
function partOf({ first, spread }: Options): Part | undefined {
  if (first !== undefined && spread !== undefined)
    throw new UsageFault('bad-option', '--first and --spread are two ways to choose, and one is enough');
  const said = first ?? spread;
  if (said === undefined) return undefined;
  const count = Number(said);
  if (Number.isInteger(count) && count > 0) return first === undefined ? { spread: count } : { first: count };
  throw new UsageFault(
    'bad-option',
    `--${first === undefined ? 'spread' : 'first'} wants a number of items, and "${said}" is none`,
  );
}

function writeGives(
  out: string,
  gives: ReadonlyMap<string, Parameters<typeof writeJson>[0]>,
  { cwd }: Workspace,
  io: Io,
): void {
  const text = `${writeJson(Object.fromEntries(gives), 2)}\n`;
  if (out === '-') {
    io.exit.out(text);
    return;
  }
  io.exit.writeFile(path.resolve(cwd, out), text, 0o644);
  io.exit.out(`made  ${out}\n`);
}
