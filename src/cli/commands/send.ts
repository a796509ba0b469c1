import { checkToSend } from '../../runner/check-to-send.ts';
import type { RunPlan } from '../../runner/run-plan.ts';
import type { ListenerEvent } from '../../core/journal/events.ts';
import { readAt } from '../../runner/deployments.ts';
import { isFact } from '../../core/journal/recorder.ts';
import { Option, type Command } from 'commander';
import path from 'node:path';
import { projectSecrets } from '../../runner/project-secrets.ts';
import { hasErrors, sorted, type SourceFile } from '../../core/diagnostics/source.ts';
import type { JournalEvent } from '../../core/journal/events.ts';
import { exchangesOf } from '../../core/report/exchange.ts';
import type { ExitStatus, Io } from '../io.ts';
import { runHost } from '../../runner/run-host.ts';
import { placeOfResult, savingResult } from '../results.ts';
import { startRun } from '../../runner/start-run.ts';
import { CommandError } from '../../runner/command-error.ts';
import { signInHelp } from '../../adapters/sign-in-help.ts';
import { checkedChain, openWorkspace, type Workspace } from '../../runner/workspace.ts';
import { showDiagnostics } from '../view/diagnostics.ts';
import { paletteOf } from '../view/palette.ts';
import { stepText } from '../../core/draft/write-call.ts';
import { READ_AS } from '../../core/http/decode.ts';
import { visible } from '../../core/value/visible.ts';
import { examples, several, type CommandModule } from './definition.ts';

import { callOfLast, callOfOptions, callOfSample, type SendOptions as Options, type SentCall } from '../send-call.ts';
import { namesFromLastRun, withLastResponse } from '../send-names.ts';
import { showBroken, showSent } from '../view/sent.ts';
/** `send METHOD TARGET`: one request, shown and recorded. It is a chain of one call, run as any other. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[method]', 'GET, POST, ...')
      .argument(
        '[target]',
        'path of the API, or an absolute URL; placeholders read names of the last run, and {$.path} the last response',
      )
      .optionsGroup('Request')
      .option('--api <name>', 'API to use, if the project has several')
      .option('--at <deployment>', 'deployment to use (repeatable)', several, [])
      .option('--setting <name=value>', 'setting of the APIs, or API.NAME=VALUE of one (repeatable)', several, [])
      .option('--query <name=value>', 'query parameter, percent-encoded for you (repeatable)', several, [])
      .option('--header <name: value>', 'a header (repeatable)', several, [])
      .option('--timeout <duration>', 'time limit for the whole request, such as 5s')
      .addOption(new Option('--redirects <way>', 'follow redirects, or stop at the first').choices(['follow', 'stop']))
      .option('--no-auth', 'send without the credentials of the API')
      .option('--idempotency-key', 'send an idempotency key')
      .option(
        '--allow-changes <deployment>',
        'allow a change at a guarded deployment, by name (repeatable)',
        several,
        [],
      )
      .option('--curl [command]', 'send the request of a curl command (default: read from standard input)')
      .option('--again', 'send the last single request once more')
      .option('--run <id>', 'run that placeholders read from (default: the last)')
      .optionsGroup('Body')
      .option('--json <value>', 'JSON body; - reads it from standard input')
      .option('--json-file <file>', 'JSON file as the body')
      .option('--xml-file <file>', 'XML file as the body')
      .option('--namespace <prefix=uri>', 'namespace of a prefix in XPath (repeatable)', several, [])
      .option('--set <path=value>', 'replace a value in the JSON or XML file, by its path (repeatable)', several, [])
      .option('--form <name=value>', 'form field (repeatable)', several, [])
      .option('--multipart <name=value>', 'form field with parts; name=@file sends a file (repeatable)', several, [])
      .option('--text <text>', 'plain text body; - reads it from standard input')
      .option('--xml <text>', 'XML body; - reads it from standard input')
      .option('--file <file>', 'file as the body')
      .option('--graphql <query>', 'GraphQL query as the body')
      .option('--type <media type>', 'media type of the body')
      .optionsGroup('Response')
      .option('--save <file>', 'write the response body to a file')
      .addOption(new Option('--read-as <form>', 'read the response body as this format').choices([...READ_AS]))
      .option('--max-body <size>', 'largest accepted response body, such as 200MiB')
      .action((method: string | undefined, target: string | undefined, options: Options) =>
        run((io) => execute(method, target, options, io)),
      );
    examples(
      sub,
      'batharon send GET /vessels',
      'batharon send GET /arrivals --query day=2026-05-23 --query flag=NO',
      `batharon send POST /berths --json '{"name": "N9", "depth": 7.5}'`,
      'batharon send GET "/vessels/{$.arrivals[0].vessel}"',
      'batharon send GET http://127.0.0.1:4090/v1/vessels > vessels.json',
      `batharon send --curl "curl -H 'Authorization: Bearer ...' http://127.0.0.1:4090/v1/berths"`,
    );
  },
};

async function execute(
  method: string | undefined,
  target: string | undefined,
  options: Options,
  io: Io,
): Promise<ExitStatus> {
  const workspace = openWorkspace(io.cwd);
  if (options.save !== undefined) placeOfResult(options.save, io);
  const call = withLastResponse(await callOf(method, target, options, workspace, io), workspace, io);
  refuseOutside(workspace, call.lines, target);
  const plan = sendPlan(call, workspace, options, io);
  if (!plan) return 2;
  const events: JournalEvent[] = [];
  const listeners = [(event: ListenerEvent) => void (isFact(event) && events.push(event))];
  const { exit, run } = await startRun({ ...plan, listeners }, io);
  showOutcome(events, run, workspace.recordFolder, io);
  return exit;
}

function callOf(
  method: string | undefined,
  target: string | undefined,
  options: Options,
  workspace: Workspace,
  io: Io,
): SentCall | Promise<SentCall> {
  if (options.again) return callOfLast(workspace);
  return options.curl === undefined ? callOfOptions(method, target, options, io) : callOfSample(options, workspace, io);
}

/** Without a project only whole URLs can be sent to. Throws `CommandError`. */
function refuseOutside({ hasProject }: Workspace, lines: readonly string[], target = ''): void {
  if (hasProject || /^request: "?[A-Z]+ https?:/m.test(lines.join('\n'))) return;
  throw new CommandError(
    'no-project',
    `No project here has an API for "${target}"`,
    'Write the whole URL, for example: batharon send GET http://127.0.0.1:4090/v1/vessels',
  );
}

/** What starts the call; nothing where something is wrong with it, which is told. */
function sendPlan(
  call: SentCall,
  workspace: Workspace,
  options: Options,
  io: Io,
): Omit<RunPlan, 'listeners'> | undefined {
  const at = readAt(options, io.environment, workspace.project);
  const inputs = new Map([...(call.values ?? []), ...namesFromLastRun(call.lines, workspace, options.run, io)]);
  const file = chainFile(call.lines, [...inputs.keys()]);
  const named = namedFiles(options, io.cwd);
  const loaded = checkedChain(workspace, file, at, false, named);
  const own = projectSecrets(workspace, io);
  // What a person writes on the command line is declared by that.
  const store = { ...own, find: (name: string) => call.secrets[name] ?? own.find(name), isInFile: () => true };
  const { secrets, diagnostics } = checkToSend(workspace, loaded, at, options.allowChanges, store);
  const { chain, used } = loaded;
  if (diagnostics.length > 0)
    io.exit.err(`${showDiagnostics(sorted(diagnostics), paletteOf(io.colors), io.columns)}\n`);
  if (!chain || !secrets || hasErrors(diagnostics)) return undefined;
  return {
    workspace,
    chain,
    used,
    help: signInHelp(io.inIsTerminal && io.errIsTerminal, io.exit),
    inputs,
    at,
    secrets,
    options: {},
    purpose: 'send',
    // What the command line names may be anywhere.
    host: { ...runHost(workspace, file.path, {}, io.exit, named), saveFile: (name) => savingResult(name, io) },
    now: null,
  };
}

function showOutcome(events: readonly JournalEvent[], run: string, recordFolder: string, io: Io): void {
  const exchange = exchangesOf(events).at(-1);
  if (exchange?.answered) showSent(exchange, run, recordFolder, io);
  for (const event of events)
    if (event.type === 'note') io.exit.err(`${event.level} ${event.code}: ${visible(event.message)}\n`);
  // A status speaks for itself; whatever else went wrong is told.
  const isPaused = events.some(({ type }) => type === 'paused');
  if ((!exchange?.answered && !isPaused) || exchange?.ended?.problem?.code.startsWith('redirect'))
    showBroken(events, io);
}

function namedFiles({ file, jsonFile, xmlFile, save, multipart }: Options, cwd: string): readonly string[] {
  const fields = multipart.flatMap((each) => /=@([^;]*)/.exec(each)?.[1] ?? []);
  return [file, jsonFile, xmlFile, save, ...fields]
    .filter((each) => each !== undefined)
    .map((each) => path.resolve(cwd, each));
}

function chainFile(lines: readonly string[], names: readonly string[]): SourceFile {
  const inputs = names.length === 0 ? '' : `inputs:\n${names.map((name) => `  ${name}: json\n`).join('')}`;
  return { path: '(command line)', text: `name: send\n${inputs}steps:\n${stepText(lines)}` };
}
