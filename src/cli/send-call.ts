import type { Value } from '../core/value/value.ts';
import type { Io } from './io.ts';
import { apiOf, readSamples } from './samples.ts';
import { CommandError } from '../runner/command-error.ts';
import { type Workspace } from '../runner/workspace.ts';
import { endsOfRun, listRuns } from '../adapters/journal-reader.ts';
import { exchangesBack, findExchange } from '../core/report/exchange.ts';
import { openRecord } from '../runner/record.ts';
import { knownApi } from './draft-ground.ts';
import { sampleOf } from './recorded-sample.ts';
import { callLines, type HowSent } from '../core/draft/write-call.ts';
import type { Sample } from '../core/draft/definition.ts';
import { Links } from '../core/draft/links.ts';
import { SecretBook } from '../core/draft/secret-book.ts';
import { Taker } from '../core/draft/take.ts';
import { readJson } from '../core/value/json-read.ts';

export type SendOptions = Readonly<{
  api?: string;
  at: readonly string[];
  setting: readonly string[];
  query: readonly string[];
  header: readonly string[];
  form: readonly string[];
  allowChanges: readonly string[];
  multipart: readonly string[];
  set: readonly string[];
  json?: string;
  jsonFile?: string;
  xmlFile?: string;
  namespace: readonly string[];
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
  again?: boolean;
  run?: string;
}>;

/** A call as lines of YAML, and the secrets that were found in a sample. */
export type SentCall = Readonly<{
  lines: readonly string[];
  secrets: Readonly<Record<string, string>>;
  /** Values of names in its placeholders. */
  values?: ReadonlyMap<string, Value>;
}>;

/** The call that the command line stands for. JSON is YAML, so a body goes in as it was given. */
export async function callOfOptions(
  method: string | undefined,
  target: string | undefined,
  options: SendOptions,
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
    ...(await plain('xml-file', options.xmlFile)),
    ...section('namespaces', pairs(options.namespace, '=', '--namespace')),
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
  const split = /^((?:[^=\[]|\[[^\]]*\])+)=(.*)$/s.exec(given);
  if (!split) {
    const advice = "Example: --set '$.order.note=by noon'.";
    throw new CommandError('invalid-option', `--set needs PATH=VALUE, not "${given}"`, advice);
  }
  const [, path = '', value = ''] = split;
  const json = readJson(value);
  return `  ${JSON.stringify(path)}: ${json.ok ? value : JSON.stringify(value)}`;
}

/** Nothing is known of a server to which a sample is sent as it is. */
const AS_IT_IS: HowSent = { credentials: new Set(), headers: new Map() };

/** The call of a curl command; its credentials become secrets, so that no record holds them. */
export async function callOfSample(options: SendOptions, workspace: Workspace, io: Io): Promise<SentCall> {
  const [sample] = readSamples(await curlText(options.curl, io), { from: 'curl' }, workspace, io);
  const { lines, inputs, secrets } = takenCall(sample!, workspace, () => AS_IT_IS);
  const missing = secrets.flatMap(({ name, value }) => (value === undefined ? [name] : []));
  const open = [...inputs, ...missing];
  if (open.length > 0)
    throw new CommandError(
      'invalid-option',
      `The sample leaves open: ${open.join(', ')}`,
      'Put values in place of its placeholders, or make inputs of them: batharon draft',
    );
  return { lines, secrets: Object.fromEntries(secrets.map(({ name, value }) => [name, value!])) };
}

/** A request by itself as a call: what it leaves open, and the secrets that were found in it. */
function takenCall({ request }: Sample, workspace: Workspace, howOf: (api: string) => HowSent) {
  const own = apiOf(workspace, request.url);
  const book = new SecretBook(new Map());
  const taker = new Taker(book, new Links(new Set(), new Set()), () => false, false);
  const taken = taker.take({ ...request, url: own?.path ?? request.url }, 'sample');
  const beside = { api: own?.api, keeps: [], status: undefined, hasApi: own !== undefined };
  const lines = callLines(taken, 'send', own ? howOf(own.api) : AS_IT_IS, beside);
  return { lines, inputs: [...taker.inputs.keys()], secrets: book.found };
}

async function curlText(given: SendOptions['curl'], io: Io): Promise<string> {
  return typeof given === 'string' ? given : io.readInput();
}

/** The request of the last `send` once more: secrets by their names, credentials of an API anew. */
export function callOfLast(workspace: Workspace): SentCall {
  const id = listRuns(workspace.recordFolder).find((each) => {
    const [first] = endsOfRun(workspace.recordFolder, each);
    return first?.type === 'run' && first.chain === '';
  });
  const record = id === undefined ? undefined : openRecord(workspace, id);
  const exchange = record && findExchange(exchangesBack(record.journal), undefined);
  if (!exchange)
    throw new CommandError('run-not-found', 'Nothing was sent here yet', 'Example: batharon send GET /vessels');
  const { lines } = takenCall(sampleOf(exchange, record), workspace, (api) => knownApi(workspace, api));
  return { lines, secrets: {} };
}
