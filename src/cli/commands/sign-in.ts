import { withRecord } from '../../runner/with-record.ts';
import { readAt, type Where } from '../../runner/deployments.ts';
import { isFact } from '../../core/journal/recorder.ts';
import type { Command } from 'commander';
import { namesOfSecrets } from '../../runner/secret-values.ts';
import { projectSecrets } from '../../runner/project-secrets.ts';
import { signInHelp } from '../../adapters/sign-in-help.ts';
import { hasErrors, sorted, type SourceFile } from '../../core/diagnostics/source.ts';
import { exitOf } from '../../core/engine/call/auth-host.ts';
import { signIn } from '../../core/engine/sign-in.ts';
import { endpointWords } from '../../core/http/endpoint.ts';
import type { JournalEvent } from '../../core/journal/events.ts';
import { endpointNamed } from '../../core/chain/endpoints.ts';
import { checkToSend } from '../../runner/check-to-send.ts';
import { unknownApi } from '../../runner/endpoints.ts';
import type { ExitStatus, Io } from '../io.ts';
import { runHost } from '../../runner/run-host.ts';
import { CommandError } from '../../runner/command-error.ts';
import { showDiagnostics } from '../view/diagnostics.ts';
import { paletteOf } from '../view/palette.ts';
import { showSignIn } from '../view/sign-in.ts';
import { checkedChain, openProject, type Workspace } from '../../runner/workspace.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = Where;

/** `sign-in API`: the authentication of an api alone, each request of it explained. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[api]', 'API to sign in to; optional if the project has one')
      .option('--at <deployment>', 'deployment to use (repeatable)', several, [])
      .option('--setting <name=value>', 'setting of the APIs, or API.NAME=VALUE of one (repeatable)', several, [])
      .action((api: string | undefined, options: Options) => run((io) => execute(api, options, io)));
    examples(sub, 'batharon sign-in harbour', 'batharon sign-in office --at live');
  },
};

async function execute(api: string | undefined, options: Options, io: Io): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const at = readAt(options, io.environment, workspace.project);
  const name = apiToSignInTo(api, workspace);
  const endpoint = endpointNamed(workspace.project, name, at);
  const palette = paletteOf(io.colors);
  const loaded = checkedChain(workspace, neverSent(name), at);
  const store = projectSecrets(workspace, io);
  const { secrets, diagnostics } = checkToSend(workspace, loaded, at, [], store);
  if (diagnostics.length > 0) io.exit.err(`${showDiagnostics(sorted(diagnostics), palette, io.columns)}\n`);
  const { chain, used } = loaded;
  if (!chain || !secrets || !endpoint || hasErrors(diagnostics)) return 2;
  const { auth } = endpoint;
  if (!auth) {
    io.exit.out(`${endpointWords(endpoint)} needs no credentials: it has no auth in batharon.yaml\n`);
    return 0;
  }
  const events: JournalEvent[] = [];
  const outcome = await withRecord(
    {
      workspace,
      chain,
      used,
      help: signInHelp(io.mayAsk, io.exit),
      inputs: new Map(),
      at,
      secrets,
      options: {},
      purpose: 'send',
      listeners: [(event) => void (isFact(event) && events.push(event))],
      host: runHost(workspace, '(sign-in)', {}, io.exit),
      now: null,
    },
    io,
    (request) => signIn(request, endpoint, auth),
  );
  const asked = namesOfSecrets(secrets).map((each) => ({ name: each, place: store.placeOf(each) ?? '' }));
  const shown = { place: endpointWords(endpoint), scheme: auth.scheme, secrets: asked, events, outcome };
  io.exit.out(`${showSignIn(shown, palette)}\n`);
  return 'problem' in outcome ? exitOf(outcome.problem) : 0;
}

/** The api that was said, or the only one. Throws `CommandError`. */
function apiToSignInTo(said: string | undefined, { project }: Workspace): string {
  const names = project?.apis.map(({ name }) => name) ?? [];
  if (said === undefined && names.length !== 1)
    throw new CommandError(
      'api-not-specified',
      'The project has several APIs, and none was specified',
      `Example: batharon sign-in ${names[0]}`,
    );
  const name = said ?? names[0]!;
  if (!names.includes(name)) throw unknownApi(name, names);
  return name;
}

/** A chain with a call that is never sent brings along what the api needs: its sign-in chain, and its secrets. */
function neverSent(api: string): SourceFile {
  const text = `name: sign-in\nsteps:\n  - call: sign-in\n    api: ${api}\n    request: GET /\n`;
  return { path: '(sign-in)', text };
}
