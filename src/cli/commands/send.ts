import { isFact } from '../../core/journal/recorder.ts';
import { Option, type Command } from 'commander';
import path from 'node:path';
import { projectSecrets } from '../project-secrets.ts';
import { hasErrors, sorted, type Diagnostic, type SourceFile } from '../../core/diagnostics/source.ts';
import type { EventOf, JournalEvent } from '../../core/journal/events.ts';
import { exchangesOf, tookOf, type ExchangeRecord } from '../../core/report/exchange.ts';
import { explainFailure } from '../../core/report/failure.ts';
import { History } from '../../core/report/history.ts';
import { readRun } from '../../adapters/journal-reader.ts';
import type { ExitStatus, Io } from '../io.ts';
import { refuseUnchosen, secretsFor } from '../endpoints.ts';
import { runHost } from '../run-host.ts';
import { placeOfResult, savingResult } from '../results.ts';
import { apiOf, readSample } from '../samples.ts';
import { startRun } from '../start-run.ts';
import { CommandError } from '../command-error.ts';
import { signInHelp } from '../../adapters/sign-in-help.ts';
import { checkedChain, openWorkspace, readAt, type Workspace } from '../workspace.ts';
import { showDiagnostics } from '../view/diagnostics.ts';
import { headerLines, showBody, statusLine } from '../view/exchange.ts';
import { showFailure } from '../view/failure.ts';
import { paletteOf } from '../view/palette.ts';
import { sized } from '../view/text.ts';
import { changesNotAllowed } from '../../core/chain/changes.ts';
import { endpointsOf } from '../../core/chain/endpoints.ts';
import { callLines, stepText, withoutCredentials, withSecretPlaceholders } from '../../core/draft/write-call.ts';
import { boundNames, valueOfBound } from '../../core/report/bound.ts';
import { isHttpUrl } from '../../core/http/message.ts';
import { READ_AS } from '../../core/http/decode.ts';
import { linkTarget } from '../../core/expression/link-header.ts';
import { visible } from '../../core/value/visible.ts';
import { readJson } from '../../core/value/json-read.ts';
import { showValue, spent } from '../../core/value/show.ts';
import type { Value } from '../../core/value/value.ts';
import { hasRuns, openRecord, wholeValue } from '../record.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = Readonly<{
  api?: string;
  at: readonly string[];
  query: readonly string[];
  header: readonly string[];
  form: readonly string[];
  allowChanges: readonly string[];
  multipart: readonly string[];
  set: readonly string[];
  json?: string;
  jsonFile?: string;
  text?: string;
  xml?: string;
  file?: string;
  graphql?: string;
  type?: string;
  auth: boolean;
  save?: string;
  readAs?: string;
  redirects?: string;
  maxBody?: string;
  idempotencyKey?: boolean;
  timeout?: string;
  curl?: string | true;
  run?: string;
}>;

/** `send METHOD TARGET`: one request, shown and recorded. It is a chain of one call, run as any other. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[method]', 'GET, POST, ...')
      .argument('[target]', 'path of the API, or an absolute URL; placeholders read the values of the last run')
      .optionsGroup('Request')
      .option('--api <name>', 'API to use, if the project has several')
      .option('--at <deployment>', 'deployment to use (repeatable)', several, [])
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
      .option('--run <id>', 'run that placeholders read from (default: the last)')
      .optionsGroup('Body')
      .option('--json <value>', 'JSON body; - reads it from standard input')
      .option('--json-file <file>', 'JSON file as the body')
      .option('--set <path=value>', 'replace a value in the JSON file, by its path (repeatable)', several, [])
      .option('--form <name=value>', 'form field (repeatable)', several, [])
      .option(
        '--multipart <name=value>',
        'field of a multipart form; name=@file sends a file (repeatable)',
        several,
        [],
      )
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
  const call =
    options.curl === undefined
      ? await callOfOptions(method, target, options, io)
      : await callOfSample(options, workspace, io);
  const isWhole = /^request: "?[A-Z]+ https?:/m.test(call.lines.join('\n'));
  if (!workspace.hasProject && !isWhole) {
    throw new CommandError(
      'no-project',
      `No project here has an API for "${target ?? ''}"`,
      'Write the whole URL, for example: batharon send GET http://127.0.0.1:4090/v1/vessels',
    );
  }
  const at = readAt(options.at, io.environment, workspace.project);
  const names = namesFromLastRun(call.lines, workspace, options.run, io);
  const file = chainFile(call.lines, [...names.keys()]);
  const { chain, diagnostics, used } = checkedChain(workspace, file, at, false, namedFiles(options, io.cwd));
  if (chain) refuseUnchosen(workspace, [chain, ...used.chains], at);
  const found: Diagnostic[] = [...workspace.diagnostics, ...diagnostics];
  const own = projectSecrets(workspace, io);
  // What a person writes on the command line is declared by that.
  const store = { ...own, find: (name: string) => call.secrets[name] ?? own.find(name), isInFile: () => true };
  const secrets = chain && secretsFor(workspace, [chain, ...used.chains], at, store);
  found.push(...(secrets?.diagnostics ?? []));
  for (const each of chain ? [chain, ...used.steps] : [])
    found.push(...changesNotAllowed(each, endpointsOf(workspace.project, at), options.allowChanges));
  if (found.length > 0) io.exit.err(`${showDiagnostics(sorted(found), paletteOf(io.colors), io.columns)}\n`);
  if (!chain || !secrets || hasErrors(found)) return 2;
  const events: JournalEvent[] = [];
  const { exit, run } = await startRun(
    {
      workspace,
      chain,
      used,
      help: signInHelp(io.inIsTerminal && io.errIsTerminal, io.exit),
      inputs: names,
      at,
      secrets: secrets.values,
      options: {},
      purpose: 'send',
      listeners: [(event) => void (isFact(event) && events.push(event))],
      // What the command line names may be anywhere.
      host: {
        ...runHost(workspace, file.path, {}, io.exit, namedFiles(options, io.cwd)),
        saveFile: (name) => savingResult(name, io),
      },
      now: null,
    },
    io,
  );
  const exchange = exchangesOf(events).at(-1);
  if (exchange?.answered) show(exchange, run, workspace.recordFolder, io);
  for (const event of events)
    if (event.type === 'note') io.exit.err(`${event.level} ${event.code}: ${visible(event.message)}\n`);
  // A status speaks for itself; whatever else went wrong is told.
  const isPaused = events.some(({ type }) => type === 'paused');
  if ((!exchange?.answered && !isPaused) || exchange?.ended?.problem?.code.startsWith('redirect'))
    showBroken(events, io);
  return exit;
}

/** A call as lines of YAML, and the secrets that were found in a sample. */
type SentCall = Readonly<{ lines: readonly string[]; secrets: Readonly<Record<string, string>> }>;

/** The call that the command line stands for. JSON is YAML, so a body goes in as it was given. */
async function callOfOptions(
  method: string | undefined,
  target: string | undefined,
  options: Options,
  io: Io,
): Promise<SentCall> {
  if (method === undefined || target === undefined) {
    throw new CommandError(
      'invalid-option',
      'A request needs a method and a target',
      'Example: batharon send GET /vessels',
    );
  }
  const quoted = (text: string) => JSON.stringify(text);
  const pairs = (given: readonly string[], sign: string, option: string) =>
    given.map((each) => {
      const split = each.indexOf(sign);
      if (split > 0) return `  ${quoted(each.slice(0, split).trim())}: ${quoted(each.slice(split + 1).trim())}`;
      const wanted = sign === '=' ? 'NAME=VALUE' : 'NAME: VALUE';
      throw new CommandError('invalid-option', `${option} needs ${wanted}, not "${each}"`);
    });
  const content = async (given: string | undefined) => (given === '-' ? await io.readInput() : given);
  const body = await content(options.json);
  const plain = async (key: string, given: string | undefined) => {
    const value = await content(given);
    return value === undefined ? [] : [`${key}: ${quoted(value)}`];
  };
  const section = (key: string, entries: readonly string[]) => (entries.length > 0 ? [`${key}:`, ...entries] : []);
  const lines = [
    'call: send',
    `request: ${quoted(`${method.toUpperCase()} ${target}`)}`,
    ...(options.api === undefined ? [] : [`api: ${quoted(options.api)}`]),
    ...(options.timeout === undefined ? [] : [`timeout: ${quoted(options.timeout)}`]),
    ...section('query', pairs(options.query, '=', '--query')),
    ...section('headers', pairs(options.header, ':', '--header')),
    ...section('form', pairs(options.form, '=', '--form')),
    ...section('multipart', options.multipart.map(fieldLine)),
    ...(await plain('json-file', options.jsonFile)),
    ...section('set', options.set.map(setLine)),
    ...(await plain('text', options.text)),
    ...(await plain('xml', options.xml)),
    ...(await plain('file', options.file)),
    ...(options.graphql === undefined ? [] : ['graphql:', `  query: ${quoted(options.graphql)}`]),
    ...(await plain('type', options.type)),
    ...(await plain('auth', options.auth ? undefined : 'none')),
    ...(options.idempotencyKey ? ['idempotency-key: true'] : []),
    ...(await plain('save', options.save)),
    ...(await plain('read-as', options.readAs)),
    ...(await plain('redirects', options.redirects)),
    ...(await plain('max-body', options.maxBody)),
    ...(body === undefined ? [] : ['json:', ...body.split('\n').map((line) => `  ${line}`)]),
  ];
  return { lines, secrets: {} };
}

/** `name=text`, or `name=@file` with `;type=...` behind it. */
function fieldLine(given: string): string {
  const split = given.indexOf('=');
  if (split <= 0) throw new CommandError('invalid-option', `--multipart needs NAME=VALUE, not "${given}"`);
  const [name, value] = [given.slice(0, split), given.slice(split + 1)];
  if (!value.startsWith('@')) return `  ${JSON.stringify(name)}: ${JSON.stringify(value)}`;
  const [file = '', type] = value.slice(1).split(';type=');
  const said = type === undefined ? '' : `, type: ${JSON.stringify(type)}`;
  return `  ${JSON.stringify(name)}: { file: ${JSON.stringify(file)}${said} }`;
}

/** `$.path=value`: the value as JSON where it is JSON, else as a text. */
function setLine(given: string): string {
  const split = /^(\$(?:[^=\[]|\[[^\]]*\])*)=(.*)$/s.exec(given);
  if (!split) {
    const advice = "Example: --set '$.order.note=by noon'.";
    throw new CommandError('invalid-option', `--set needs PATH=VALUE, not "${given}"`, advice);
  }
  const [, path = '', value = ''] = split;
  const json = readJson(value);
  return `  ${JSON.stringify(path)}: ${json.ok ? value : JSON.stringify(value)}`;
}

/** The call of a curl command; its credentials become secrets, so that no record holds them. */
async function callOfSample(options: Options, workspace: Workspace, io: Io): Promise<SentCall> {
  const sample = await readSample(options.curl, 'curl', io);
  const own = apiOf(workspace, sample.url);
  const { request, secrets } = withoutCredentials(sample);
  const lines = callLines(request, 'send', own?.path ?? sample.url, undefined, own ? [`api: ${own.api}`] : []);
  return {
    lines: withSecretPlaceholders(lines),
    secrets: Object.fromEntries(secrets.map(({ name, value }) => [name, value])),
  };
}

function namedFiles({ file, jsonFile, save, multipart }: Options, cwd: string): readonly string[] {
  const fields = multipart.flatMap((each) => /=@([^;]*)/.exec(each)?.[1] ?? []);
  return [file, jsonFile, save, ...fields].filter((each) => each !== undefined).map((each) => path.resolve(cwd, each));
}

function chainFile(lines: readonly string[], names: readonly string[]): SourceFile {
  const inputs = names.length === 0 ? '' : `inputs:\n${names.map((name) => `  ${name}: json\n`).join('')}`;
  return { path: '(command line)', text: `name: send\n${inputs}steps:\n${stepText(lines)}` };
}

/** The names in the placeholders of a request that the last run bound, and their values; which they are is said. */
function namesFromLastRun(
  lines: readonly string[],
  workspace: Workspace,
  run: string | undefined,
  io: Io,
): ReadonlyMap<string, Value> {
  const placeholders = lines.join('\n').match(/\{[^{}]*\}/g) ?? [];
  const words = new Set(
    placeholders.flatMap((placeholder) => placeholder.match(/[A-Za-z_\u0080-\uffff][\w\u0080-\uffff]*/g) ?? []),
  );
  words.delete('secret');
  words.delete('setting');
  const values = new Map<string, Value>();
  if (words.size === 0 || (run === undefined && !hasRuns(workspace))) return values;
  const record = openRecord(workspace, run ?? 'last');
  for (const bound of boundNames(record.events)) {
    if (!words.has(bound.name)) continue;
    const value = valueOfBound(bound) ?? wholeValue(bound, record);
    if (value === undefined) {
      throw new CommandError(
        'found-nothing',
        `"${bound.name}" is a secret of run ${record.id}, and secrets are never recorded`,
        'Write {secret.NAME} instead.',
      );
    }
    values.set(bound.name, value);
    io.exit.err(`${bound.name} is ${showValue(value, 60)}, from run ${record.id}\n`);
  }
  return values;
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
  const page = nextPage(exchange);
  const more = page === undefined ? '' : palette.quiet(`next page: ${page}   in a chain: paging: {next: link('next')}`);
  if (!io.outIsTerminal) {
    io.exit.err(`${[...head, ...(more ? [more] : [])].join('\n')}\n`);
    if (content) io.exit.out(showBody(content, answered.body!.type, paletteOf(false)) + '\n');
    return;
  }
  const told = answered.headers.filter(([name]) => !QUIET_HEADERS.has(name.toLowerCase()));
  io.exit.out(`${[...head, ...headerLines(told, palette)].join('\n')}\n`);
  if (content) io.exit.out(`\n${showBody(content, answered.body!.type, palette)}\n`);
  const next = content
    ? `read a value: batharon value '$...'   whole exchange: batharon look`
    : 'whole exchange: batharon look';
  io.exit.out(`\n${more && `${more}\n`}${palette.quiet(next)}\n`);
}

/** Where the Link header of the response says that the next page is. */
function nextPage({ sent, answered }: ExchangeRecord): string | undefined {
  const links = answered!.headers.filter(([name]) => name.toLowerCase() === 'link').map(([, value]) => value);
  if (links.length === 0) return undefined;
  try {
    const target = linkTarget(links.join(', '), 'next');
    const page = target === undefined ? undefined : new URL(target, sent.request.url).href;
    return page !== undefined && isHttpUrl(page) ? page : undefined;
  } catch {
    // A header that cannot be read is shown with the others, and is not this line's to judge.
    return undefined;
  }
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
