import type { Command } from 'commander';
import path from 'node:path';
import { readSourceFile } from '../../adapters/project-files.ts';
import { listRuns, readRun, type RecordedRun } from '../../adapters/journal-reader.ts';
import { readChain } from '../../core/chain/chain-file.ts';
import type { Chain } from '../../core/chain/model.ts';
import { allSteps, bindingsOf, callsOf } from '../../core/chain/steps/inside.ts';
import { headerOf } from '../../core/http/message.ts';
import { isList, isObject, type Value } from '../../core/value/value.ts';
import { withKeep, withStep } from '../../core/chain/insert.ts';
import type { SourceFile } from '../../core/diagnostics/source.ts';
import { shellQuoted } from '../../core/draft/shell-words.ts';
import { callLines } from '../../core/draft/write-call.ts';
import { parametersOf, type DraftBody, type DraftRequest } from '../../core/draft/request.ts';
import { exchangesBack, exchangesOf, findExchange, type ExchangeRecord } from '../../core/report/exchange.ts';
import { isName } from '../../core/path/scanner.ts';
import { nameFor, propose, search } from '../../core/path/propose.ts';
import { boundNames, valueOfBound, type BoundName } from '../../core/report/bound.ts';
import { stepName } from '../../core/journal/address.ts';
import { writeJson } from '../../core/value/json-write.ts';
import { isNumber, numberText } from '../../core/value/numbers.ts';
import { textOf } from '../../core/value/text.ts';
import type { ExitStatus, Io } from '../io.ts';
import { bodyJson, bodyText, openRecord } from '../../runner/record.ts';
import { apiOf } from '../samples.ts';
import { CommandError } from '../../runner/command-error.ts';
import { openProject, type Workspace } from '../../runner/workspace.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ into: string; run?: string }>;

/** `add NAME --into FILE`: the last exchange as a call at the end of a chain, without sending. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('<name>', 'name of the call')
      .requiredOption('--into <chain>', 'chain file; its comments and layout are kept')
      .option('--run <id>', 'record to take the exchange from (default: the newest)')
      .action((name: string, options: Options) => run((io) => Promise.resolve(execute(name, options, io))));
    examples(sub, 'batharon send GET /vessels/KM%20204%2F5', 'batharon add vessel --into chains/arrivals.chain.yaml');
  },
};

function execute(name: string, { into, run }: Options, io: Io): ExitStatus {
  const workspace = openProject(io.cwd);
  const record = openRecord(workspace, run);
  const exchange = findExchange(exchangesBack(record.journal), undefined);
  if (!exchange)
    throw new CommandError(
      'call-not-found',
      `The record ${record.id} has no exchange`,
      'Send a request first: batharon send',
    );
  const full = path.resolve(io.cwd, into);
  const read = readSourceFile(full, io.cwd);
  if (!read.file)
    throw new CommandError(read.problem, `The file ${into} cannot be read`, 'Create one with: batharon draft');
  const { lines, names } = callOf({ exchange, record, file: read.file, workspace }, name);
  const text = withStep(withKeeps(read.file, names), lines);
  if (typeof text !== 'string') throw new CommandError('wrong-type', text.message, text.advice);
  io.exit.rewriteFile(full, text);
  io.exit.out(`Added the call "${name}" to ${into}\n`);
  for (const { name: known, call, expression } of names) {
    io.exit.out(
      `  {${known}} ${expression === undefined ? 'is kept' : `is now kept: ${expression}`}${call === undefined ? '' : `, by ${call}`}\n`,
    );
  }
  io.exit.out(`\nNext:\n  batharon run ${shellQuoted(into)}\n`);
  return 0;
}

/** A name for a value that was sent; `expression` when its `keep` must still be written. */
type Origin = Readonly<{ name: string; call: string | undefined; value: string; expression: string | undefined }>;

/** An exchange that is to become a call of a chain. */
type Adding = Readonly<{ exchange: ExchangeRecord; record: RecordedRun; file: SourceFile; workspace: Workspace }>;

function callOf(adding: Adding, name: string): Readonly<{ lines: readonly string[]; names: readonly Origin[] }> {
  const { exchange, workspace } = adding;
  const { sent, answered } = exchange;
  const { request } = sent;
  const [url = '', query = ''] = request.url.split('?');
  const own = apiOf(workspace, url);
  const origins = originsOf(adding);
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
  const draft: DraftRequest = {
    method: request.method,
    url,
    query: named(parametersOf(query)).filter(([, value]) => !value.includes('‹')),
    headers: named(request.headers.filter(([each, value]) => !OWN.has(each.toLowerCase()) && !value.includes('‹'))),
    body: bodyOf(adding, withNames),
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

/** The texts and numbers in a JSON value, as they are written. */
function scalarsIn(value: Value): readonly string[] {
  if (isList(value)) return value.flatMap(scalarsIn);
  if (isObject(value)) return Object.values(value).flatMap(scalarsIn);
  return typeof value === 'string' ? [value] : isNumber(value) ? [numberText(value)] : [];
}

/** A JSON value in which names stand for what earlier responses held. */
function withMarks(value: Value, origin: (text: string) => Origin | undefined): Value {
  if (isList(value)) return value.map((item) => withMarks(item, origin));
  if (isObject(value)) {
    return Object.fromEntries(Object.entries(value).map(([name, member]) => [name, withMarks(member, origin)]));
  }
  if (typeof value === 'string') return marked(value, origin);
  return isNumber(value) && origin(numberText(value)) ? marked(numberText(value), origin) : value;
}

/** The body of a recorded request, with names for values in JSON. */
function bodyOf({ exchange, record }: Adding, origin: (text: string) => Origin | undefined): DraftBody | undefined {
  const { body, headers } = exchange.sent.request;
  const text = bodyText(record, body);
  if (text === undefined) return undefined;
  const type = headerOf(headers, 'content-type');
  const json = /json/.test(type ?? '') ? bodyJson(record, body) : undefined;
  if (json !== undefined) return { kind: 'json', text: writeJson(withMarks(json, origin)) };
  if (/x-www-form-urlencoded/.test(type ?? '')) return { kind: 'form', fields: parametersOf(text) };
  return { kind: 'text', text, type };
}

/** Characters from which a value is likely to have come from a response rather than to be equal by chance. */
const SHORTEST = 3;
const RECORDS = 10;

/**
 * Where the values of a request came from: names that the last run bound, then values of earlier recorded responses, whose
 * calls stand in the chain and can keep them.
 */
function originsOf({ exchange, record, file, workspace }: Adding): readonly Origin[] {
  const { chain } = readChain(file);
  if (!chain) return [];
  const calls = new Set(callsOf(chain).map(({ name }) => name));
  const known = namesBoundIn(chain);
  const earlier = listRuns(workspace.recordFolder)
    .slice(0, RECORDS)
    .flatMap((id) => readRun(workspace.recordFolder, id) ?? []);
  const bound = earlier.flatMap(({ events }) => boundNames(events)).filter(({ name }) => known.has(name));
  const responses = earlier.flatMap((each) =>
    responsesOf(each, (x) => each.id === record.id && x === exchange.sent.x, calls),
  );
  const origins: Origin[] = [];
  for (const value of new Set(valuesSent(exchange, record))) {
    if (value.length < SHORTEST) continue;
    const origin = boundOrigin(value, bound) ?? responseOrigin(value, responses, known);
    if (!origin) continue;
    known.add(origin.name);
    origins.push(origin);
  }
  return origins;
}

/** Every name that a chain binds, wherever that is. */
function namesBoundIn({ inputs, steps }: Chain): Set<string> {
  const bound = allSteps(steps).flatMap(bindingsOf);
  return new Set([...inputs, ...bound].map(({ name }) => name));
}

/** Texts and numbers of a request, from its path, its query and its body. */
function valuesSent({ sent }: ExchangeRecord, record: RecordedRun): readonly string[] {
  const { url, body } = sent.request;
  const [plain = '', query = ''] = url.split('?');
  return [
    ...new URL(plain).pathname.split('/').map(decodeURIComponent),
    ...parametersOf(query).map(([, value]) => value),
    ...scalarsIn(bodyJson(record, body) ?? null),
  ];
}

function boundOrigin(value: string, bound: readonly BoundName[]): Origin | undefined {
  const found = bound.find((each) => {
    const known = valueOfBound(each);
    return known !== undefined && textOf(known) === value;
  });
  return found && { name: found.name, call: found.call, value, expression: undefined };
}

/** A recorded JSON response of a call that the chain has. */
type CallResponse = Readonly<{ call: string; body: Value }>;

function responsesOf(
  record: RecordedRun,
  isOwn: (x: number) => boolean,
  calls: ReadonlySet<string>,
): readonly CallResponse[] {
  return exchangesOf(record.events).flatMap(({ sent, answered }) => {
    const call = stepName(sent.step);
    const body = isOwn(sent.x) || !calls.has(call) ? undefined : bodyJson(record, answered?.body);
    return body === undefined ? [] : [{ call, body }];
  });
}

/** The first response that holds the value, and a name for it that is free in the chain. */
function responseOrigin(
  value: string,
  responses: readonly CallResponse[],
  known: ReadonlySet<string>,
): Origin | undefined {
  for (const { call, body } of responses) {
    const hit = search(body, value).hits.find(({ rank }) => rank === 0);
    if (!hit) continue;
    const plain = nameFor(hit);
    const name = [plain, `${call}_${plain}`, `${plain}_${known.size + 1}`].find(
      (each) => isName(each) && !known.has(each),
    );
    if (name !== undefined) return { name, call, value, expression: propose(body, hit).exact };
  }
  return undefined;
}

function withKeeps(file: SourceFile, origins: readonly Origin[]): SourceFile {
  return origins.reduce((each, { name, call, expression }) => {
    const text = expression === undefined ? each.text : withKeep(each, call, name, expression);
    if (typeof text !== 'string') throw new CommandError('call-not-found', text.message, text.advice);
    return { ...each, text };
  }, file);
}
