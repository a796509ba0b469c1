import type { Command } from 'commander';
import path from 'node:path';
import { readSourceFile } from '../../adapters/project-files.ts';
import { listRuns, readRun, type RecordedRun } from '../../adapters/journal-reader.ts';
import { withKeep, withStep } from '../../core/chain/insert.ts';
import type { SourceFile } from '../../core/diagnostics/source.ts';
import { callLines } from '../../core/draft/write-call.ts';
import { parametersOf, type DraftBody, type DraftRequest } from '../../core/draft/request.ts';
import { exchangesOf, type ExchangeRecord } from '../../core/report/exchange.ts';
import { isName } from '../../core/path/scanner.ts';
import { nameFor, propose, search } from '../../core/path/propose.ts';
import { boundNames, valueOfBound } from '../../core/report/bound.ts';
import { stepName } from '../../core/report/history.ts';
import { readJson } from '../../core/value/json-read.ts';
import { textOf } from '../../core/value/text.ts';
import type { ExitStatus, Io } from '../io.ts';
import { openRecord } from '../record.ts';
import { apiOf } from '../samples.ts';
import { UsageFault } from '../usage-fault.ts';
import { openProject, type Workspace } from '../workspace.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ into: string; run?: string }>;

/** `add NAME --into FILE`: the last exchange as a call at the end of a chain, without sending. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('<name>', 'what to call it')
      .requiredOption('--into <chain>', 'the chain file; its comments and layout stay')
      .option('--run <id>', 'the record; without one the newest')
      .action((name: string, options: Options) => run((io) => Promise.resolve(execute(name, options, io))));
    examples(sub, 'batharon send GET /vessels/KM%20204%2F5', 'batharon add vessel --into chains/arrivals.chain.yaml');
  },
};

function execute(name: string, { into, run }: Options, io: Io): ExitStatus {
  const workspace = openProject(io.cwd);
  const record = openRecord(workspace, run);
  const exchange = exchangesOf(record.events).at(-1);
  if (!exchange)
    throw new UsageFault('call-not-found', `The record ${record.id} has no exchange`, 'Send one with: batharon send');
  const full = path.resolve(io.cwd, into);
  const read = readSourceFile(full, io.cwd);
  if (!read.file)
    throw new UsageFault(read.problem, `The file ${into} cannot be read`, 'Make one with: batharon draft curl');
  const { lines, names } = callOf(exchange, record, name, read.file, workspace);
  let file = withKeeps(read.file, names);
  const text = withStep(file, lines);
  if (typeof text !== 'string') throw new UsageFault('wrong-kind', text.message, text.advice);
  file = { ...file, text };
  io.exit.rewriteFile(full, file.text);
  io.exit.out(`${into} has the call "${name}" now\n`);
  for (const { name: known, call, expression } of names) {
    io.exit.out(
      `  {${known}} ${expression === undefined ? 'is kept' : `is now kept: ${expression}`}${call === undefined ? '' : `, by ${call}`}\n`,
    );
  }
  io.exit.out(`\nNext:\n  batharon run ${into}\n`);
  return 0;
}

/** A name for a value that was sent; `expression` when its `keep` must still be written. */
type Origin = Readonly<{ name: string; call: string | undefined; value: string; expression: string | undefined }>;

function callOf(exchange: ExchangeRecord, record: RecordedRun, name: string, file: SourceFile, workspace: Workspace) {
  const { sent, answered } = exchange;
  const { request } = sent;
  const [url = '', query = ''] = request.url.split('?');
  const own = apiOf(workspace, url);
  const origins = originsOf(exchange, record, file, workspace);
  const withNames = (text: string) => origins.find(({ value }) => value === text);
  const target = (own?.path ?? url)
    .split('/')
    .map((segment) => {
      const origin = segment === '' ? undefined : withNames(decodeURIComponent(segment));
      return origin ? `{${origin.name}}` : segment;
    })
    .join('/');
  const named = (pairs: DraftRequest['query']) =>
    pairs.map(([key, value]): readonly [string, string] => [key, marked(value, withNames)]);
  const body = bodyOf(record, request.body, headerOf(request.headers, 'content-type'));
  const draft: DraftRequest = {
    method: request.method,
    url,
    query: named(parametersOf(query)).filter(([, value]) => !value.includes('‹')),
    headers: named(request.headers.filter(([each, value]) => !OWN.has(each.toLowerCase()) && !value.includes('‹'))),
    body: body?.kind === 'json' ? { kind: 'json', text: markedJson(body.text, withNames) } : body,
    basic: undefined,
    timeout: undefined,
  };
  const expected = answered ? ['expect:', `  - status == ${answered.status}`] : [];
  const lines = callLines(draft, name, target, undefined, expected).map((line) =>
    line.replace(/["']?\u0001(\w+)\u0001["']?/g, '"{$1}"'),
  );
  const used = origins.filter((origin) => lines.some((line) => line.includes(`{${origin.name}}`)));
  return { lines, names: used };
}

/** Headers that are made anew for each request, or belong to the api. */
const OWN: ReadonlySet<string> = new Set([
  'accept',
  'accept-encoding',
  'user-agent',
  'content-length',
  'content-type',
  'host',
]);

/** A text that a name stands for, between signs that no YAML needs quotes for. */
function marked(text: string, origin: (text: string) => Origin | undefined): string {
  const found = origin(text);
  return found ? `\u0001${found.name}\u0001` : text;
}

function markedJson(text: string, origin: (text: string) => Origin | undefined): string {
  return text.replace(/"(?:[^"\\]|\\.)*"(?!\s*:)|-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?/g, (literal) => {
    const plain = literal.startsWith('"') ? (JSON.parse(literal) as string) : literal;
    const found = origin(plain);
    return found ? `"\\u0001${found.name}\\u0001"` : literal;
  });
}

function bodyOf(
  record: RecordedRun,
  ref: ExchangeRecord['sent']['request']['body'],
  type: string | undefined,
): DraftBody | undefined {
  const content = ref && record.body(ref);
  if (!content) return undefined;
  const text = new TextDecoder().decode(content);
  if (/json/.test(type ?? '') && readJson(text).ok) return { kind: 'json', text };
  if (/x-www-form-urlencoded/.test(type ?? '')) return { kind: 'form', fields: parametersOf(text) };
  return { kind: 'text', text, type };
}

function headerOf(headers: readonly (readonly [string, string])[], name: string): string | undefined {
  return headers.find(([each]) => each.toLowerCase() === name)?.[1];
}

/** Characters from which a value is likely to have come from a response rather than to be equal by chance. */
const SHORTEST = 3;
const RECORDS = 10;

/**
 * Where the values of a request came from: names that the last run bound, then values of earlier recorded responses, whose
 * calls stand in the chain and can keep them.
 */
function originsOf(
  exchange: ExchangeRecord,
  record: RecordedRun,
  file: SourceFile,
  workspace: Workspace,
): readonly Origin[] {
  const values = [...new Set(valuesSent(exchange, record))].filter((value) => value.length >= SHORTEST);
  const earlier = listRuns(workspace.recordFolder)
    .slice(0, RECORDS)
    .flatMap((id) => readRun(workspace.recordFolder, id) ?? []);
  const origins: Origin[] = [];
  for (const value of values) {
    const origin = boundOrigin(value, earlier, file) ?? responseOrigin(value, earlier, exchange, file, origins);
    if (origin) origins.push(origin);
  }
  return origins;
}

function valuesSent({ sent }: ExchangeRecord, record: RecordedRun): readonly string[] {
  const [url = '', query = ''] = sent.request.url.split('?');
  const segments = new URL(url).pathname.split('/').map(decodeURIComponent);
  const content = sent.request.body && record.body(sent.request.body);
  const json = content && readJson(new TextDecoder().decode(content));
  const inBody = json?.ok ? (JSON.stringify(json.value).match(/"(?:[^"\\]|\\.)*"(?!:)|\d[\d.]*/g) ?? []) : [];
  return [
    ...segments,
    ...parametersOf(query).map(([, value]) => value),
    ...inBody.map((literal) => (literal.startsWith('"') ? (JSON.parse(literal) as string) : literal)),
  ];
}

function boundOrigin(value: string, records: readonly RecordedRun[], file: SourceFile): Origin | undefined {
  const bound = records
    .flatMap(({ events }) => boundNames(events))
    .find((each) => {
      const known = valueOfBound(each);
      return known !== undefined && textOf(known) === value && new RegExp(`\\b${each.name}:`).test(file.text);
    });
  return bound && { name: bound.name, call: bound.call, value, expression: undefined };
}

function responseOrigin(
  value: string,
  records: readonly RecordedRun[],
  own: ExchangeRecord,
  file: SourceFile,
  taken: readonly Origin[],
): Origin | undefined {
  for (const record of records) {
    for (const { sent, answered } of exchangesOf(record.events)) {
      const call = stepName(sent.step);
      if (sent === own.sent || !answered?.body || !new RegExp(`call: ["']?${call}["']?\\s`).test(file.text)) continue;
      const content = record.body(answered.body);
      const json = content && readJson(new TextDecoder().decode(content));
      const hit = json?.ok ? search(json.value, value).hits.find(({ rank }) => rank === 0) : undefined;
      if (!json?.ok || !hit) continue;
      const plain = nameFor(hit);
      const isFree = (name: string) =>
        isName(name) && !taken.some((each) => each.name === name) && !new RegExp(`\\b${name}:`).test(file.text);
      const name = [plain, `${call}_${plain}`, `${plain}_${taken.length + 2}`].find(isFree);
      if (name !== undefined) return { name, call, value, expression: propose(json.value, hit).exact };
    }
  }
  return undefined;
}

function withKeeps(file: SourceFile, origins: readonly Origin[]): SourceFile {
  return origins.reduce((each, { name, call, expression }) => {
    const text = expression === undefined ? each.text : withKeep(each, call, name, expression);
    if (typeof text !== 'string') throw new UsageFault('call-not-found', text.message, text.advice);
    return { ...each, text };
  }, file);
}
