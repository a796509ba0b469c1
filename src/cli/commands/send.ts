import type { Command } from 'commander';
import { openSecrets } from '../../adapters/secrets.ts';
import { hasErrors, sorted, type Diagnostic, type SourceFile } from '../../core/diagnostics/source.ts';
import type { EventOf, JournalEvent } from '../../core/journal/events.ts';
import { exchangesOf, tookOf, type ExchangeRecord } from '../../core/report/exchange.ts';
import { explainFailure } from '../../core/report/failure.ts';
import { History } from '../../core/report/history.ts';
import { readRun } from '../../adapters/journal-reader.ts';
import type { ExitStatus, Io } from '../io.ts';
import { secretsFor } from '../endpoints.ts';
import { runHost } from '../run-host.ts';
import { startRun } from '../start-run.ts';
import { UsageFault } from '../usage-fault.ts';
import { checkedChain, openWorkspace, readAt } from '../workspace.ts';
import { showDiagnostics } from '../view/diagnostics.ts';
import { headerLines, showBody, statusLine } from '../view/exchange.ts';
import { showFailure } from '../view/failure.ts';
import { paletteOf } from '../view/palette.ts';
import { sized, spent } from '../view/text.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = Readonly<{
  api?: string;
  at: readonly string[];
  query: readonly string[];
  header: readonly string[];
  json?: string;
  timeout?: string;
}>;

/** `send METHOD TARGET`: one request, shown and recorded. It is a chain of one call, run as any other. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('<method>', 'GET, POST, ...')
      .argument('<target>', 'a path of the api, or an absolute URL')
      .option('--api <name>', 'the api, where the project has several')
      .option('--at <deployment>', 'where the api runs', several, [])
      .option('--query <name=value>', 'a query parameter, encoded for you (may be given again)', several, [])
      .option('--header <name: value>', 'a header (may be given again)', several, [])
      .option('--timeout <duration>', 'how long the request may take, such as 5s')
      .option('--json <value>', 'a JSON body; - reads it from standard input')
      .action((method: string, target: string, options: Options) => run((io) => execute(method, target, options, io)));
    examples(
      sub,
      'batharon send GET /vessels',
      'batharon send GET /arrivals --query day=2026-05-23 --query flag=NO',
      `batharon send POST /berths --json '{"name": "N9", "depth": 7.5}'`,
      'batharon send GET http://127.0.0.1:4090/v1/vessels > vessels.json',
    );
  },
};

async function execute(method: string, target: string, options: Options, io: Io): Promise<ExitStatus> {
  const workspace = openWorkspace(io.cwd);
  if (!workspace.hasProject && !/^https?:\/\//.test(target)) {
    throw new UsageFault(
      'no-project',
      `There is no project here whose api "${target}" could be sent to`,
      'Write the whole URL: batharon send GET http://127.0.0.1:4090/v1/vessels',
    );
  }
  const at = readAt(options.at, io.environment, workspace.project);
  const file = await chainText(method, target, options, io);
  const { chain, diagnostics } = checkedChain(workspace, file, at);
  const found: Diagnostic[] = [...workspace.diagnostics, ...diagnostics];
  const store = openSecrets(workspace.hasProject ? workspace.folder : undefined, io.environment);
  const secrets = chain && secretsFor(workspace, chain, at, store);
  found.push(...(secrets?.diagnostics ?? []));
  if (found.length > 0) io.exit.err(`${showDiagnostics(sorted(found), paletteOf(io.colors), io.columns)}\n`);
  if (!chain || !secrets || hasErrors(found)) return 2;
  const events: JournalEvent[] = [];
  const { exit, run } = await startRun(
    {
      workspace,
      chain,
      inputs: new Map(),
      at,
      secrets: secrets.values,
      options: {},
      purpose: 'send',
      listeners: [(event) => events.push(event)],
      host: runHost(workspace, file.path, {}),
      now: null,
    },
    io,
  );
  const [exchange] = exchangesOf(events);
  if (exchange?.answered) show(exchange, run, workspace.recordFolder, io);
  else showBroken(events, io);
  return exit;
}

/** The chain file that the command line stands for. JSON is YAML, so a body goes in as it was given. */
async function chainText(method: string, target: string, options: Options, io: Io): Promise<SourceFile> {
  const body = options.json === '-' ? await io.readInput() : options.json;
  const quoted = (text: string) => JSON.stringify(text);
  const pairs = (given: readonly string[], sign: string, option: string) =>
    given.map((each) => {
      const split = each.indexOf(sign);
      if (split > 0) return `      ${quoted(each.slice(0, split).trim())}: ${quoted(each.slice(split + 1).trim())}`;
      throw new UsageFault(
        'bad-option',
        `${option} wants ${sign === '=' ? 'NAME=VALUE' : 'NAME: VALUE'}, and "${each}" is none`,
      );
    });
  const query = pairs(options.query, '=', '--query');
  const headers = pairs(options.header, ':', '--header');
  const lines = [
    'name: send',
    'steps:',
    '  - call: send',
    `    request: ${quoted(`${method.toUpperCase()} ${target}`)}`,
    ...(options.api === undefined ? [] : [`    api: ${quoted(options.api)}`]),
    ...(options.timeout === undefined ? [] : [`    timeout: ${quoted(options.timeout)}`]),
    ...(query.length > 0 ? ['    query:', ...query] : []),
    ...(headers.length > 0 ? ['    headers:', ...headers] : []),
    ...(body === undefined ? [] : ['    json:', ...body.split('\n').map((line) => `      ${line}`)]),
  ];
  return { path: '(command line)', text: `${lines.join('\n')}\n` };
}

/** The response; piped, standard output is the body alone. */
function show(exchange: ExchangeRecord, run: string, recordFolder: string, io: Io): void {
  const { sent } = exchange;
  const answered = exchange.answered!;
  const palette = paletteOf(io.outIsTerminal ? io.colors : io.colors && io.errIsTerminal);
  const took = spent(tookOf(exchange) ?? 0);
  const content = answered.body && readRun(recordFolder, run)?.body(answered.body);
  const size = sized(answered.body?.size ?? 0);
  const head = [
    `${palette.strong(sent.request.method)} ${sent.request.url}`,
    `${statusLine(answered.status, answered.reason, palette)}   ${palette.quiet(`${took}, ${size}`)}`,
  ];
  if (!io.outIsTerminal) {
    io.exit.err(`${head.join('\n')}\n`);
    if (content) io.exit.out(showBody(content, answered.body!.type, paletteOf(false)) + '\n');
    return;
  }
  const told = answered.headers.filter(([name]) => !QUIET_HEADERS.has(name.toLowerCase()));
  io.exit.out(`${[...head, ...headerLines(told, palette)].join('\n')}\n`);
  if (content) io.exit.out(`\n${showBody(content, answered.body!.type, palette)}\n`);
  const next = content
    ? `a value of it: batharon value '$...'   all of the exchange: batharon look`
    : 'all of the exchange: batharon look';
  io.exit.out(`\n${palette.quiet(next)}\n`);
}

/** Headers that say nothing to somebody who tries a request; `look` shows them all. */
const QUIET_HEADERS: ReadonlySet<string> = new Set([
  'date',
  'connection',
  'keep-alive',
  'transfer-encoding',
  'content-length',
  'x-powered-by',
]);

function showBroken(events: readonly JournalEvent[], io: Io): void {
  const ended = events.find((event): event is EventOf<'ended'> => event.type === 'ended');
  if (!ended) return;
  io.exit.err(`${showFailure(explainFailure(ended, new History()), paletteOf(io.colors), io.columns)}\n`);
}
