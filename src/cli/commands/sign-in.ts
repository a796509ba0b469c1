import { isFact } from '../../core/journal/recorder.ts';
import type { Command } from 'commander';
import { projectSecrets } from '../project-secrets.ts';
import { signInHelp } from '../../adapters/sign-in-help.ts';
import { hasErrors, sorted } from '../../core/diagnostics/source.ts';
import { exitOf } from '../../core/engine/call/auth-host.ts';
import { signIn } from '../../core/engine/sign-in.ts';
import { endpointWords } from '../../core/http/endpoint.ts';
import type { JournalEvent } from '../../core/journal/events.ts';
import { endpointNamed } from '../../core/chain/endpoints.ts';
import { secretsFor, unknownApi } from '../endpoints.ts';
import type { ExitStatus, Io } from '../io.ts';
import { runHost } from '../run-host.ts';
import { withRecord } from '../start-run.ts';
import { CommandError } from '../command-error.ts';
import { showDiagnostics } from '../view/diagnostics.ts';
import { paletteOf } from '../view/palette.ts';
import { showSignIn } from '../view/sign-in.ts';
import { checkedChain, openProject, readAt } from '../workspace.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = Readonly<{ at: readonly string[] }>;

/** `sign-in API`: the authentication of an api alone, each request of it explained. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[api]', 'API to sign in to; optional if the project has one')
      .option('--at <deployment>', 'deployment to use (repeatable)', several, [])
      .action((api: string | undefined, options: Options) => run((io) => execute(api, options, io)));
    examples(sub, 'batharon sign-in harbour', 'batharon sign-in office --at live');
  },
};

async function execute(api: string | undefined, options: Options, io: Io): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const at = readAt(options.at, io.environment, workspace.project);
  const names = workspace.project?.apis.map(({ name }) => name) ?? [];
  if (api === undefined && names.length !== 1)
    throw new CommandError(
      'api-not-specified',
      'The project has several APIs, and none was specified',
      `Example: batharon sign-in ${names[0]}`,
    );
  const name = api ?? names[0]!;
  if (!names.includes(name)) throw unknownApi(name, names);
  const endpoint = endpointNamed(workspace.project, name, at);
  const palette = paletteOf(io.colors);
  // A chain with a call that is never sent brings along what the api needs: its sign-in chain, and its secrets.
  const file = {
    path: 'batharon.yaml',
    text: `name: sign-in\nsteps:\n  - call: sign-in\n    api: ${name}\n    request: GET /\n`,
  };
  const { chain, diagnostics, used } = checkedChain(workspace, { ...file, path: '(sign-in)' }, at);
  const store = projectSecrets(workspace, io);
  const secrets = chain && secretsFor(workspace, [chain, ...used.chains], at, store);
  const found = [...workspace.diagnostics, ...diagnostics, ...(secrets?.diagnostics ?? [])];
  if (found.length > 0) io.exit.err(`${showDiagnostics(sorted(found), palette, io.columns)}\n`);
  if (!chain || !secrets || !endpoint || hasErrors(found)) return 2;
  const { auth } = endpoint;
  if (!auth) {
    io.exit.out(`${endpointWords(endpoint)} needs no credentials: it has no auth in batharon.yaml\n`);
    return 0;
  }
  const events: JournalEvent[] = [];
  const canAsk = io.mayAsk;
  const outcome = await withRecord(
    {
      workspace,
      chain,
      used,
      help: signInHelp(canAsk, io.exit),
      inputs: new Map(),
      at,
      secrets: secrets.values,
      options: {},
      purpose: 'send',
      listeners: [(event) => void (isFact(event) && events.push(event))],
      host: runHost(workspace, '(sign-in)', {}, io.exit),
      now: null,
    },
    io,
    (request) => signIn(request, endpoint, auth),
  );
  const asked = Object.keys(secrets.values).map((each) => ({
    name: each,
    place: store.placeOf(each) ?? '',
  }));
  const text = showSignIn(
    { place: endpointWords(endpoint), scheme: auth.scheme, secrets: asked, events, outcome },
    palette,
  );
  io.exit.out(`${text}\n`);
  return 'problem' in outcome ? exitOf(outcome.problem) : 0;
}
