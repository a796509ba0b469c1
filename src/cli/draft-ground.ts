import { existsSync } from 'node:fs';
import path from 'node:path';
import { listRuns, readRun, type RecordedRun } from '../adapters/journal-reader.ts';
import { readSourceFile } from '../adapters/project-files.ts';
import { openSecrets } from '../adapters/secrets.ts';
import { readChain } from '../core/chain/chain-file.ts';
import type { CallStep, Chain } from '../core/chain/model.ts';
import { allSteps, bindingsOf, callsOf } from '../core/chain/steps/inside.ts';
import type { DraftGround, KnownApi } from '../core/draft/draft.ts';
import { plainJson } from '../core/draft/json-text.ts';
import type { KnownResponse } from '../core/draft/links.ts';
import { stepName } from '../core/journal/address.ts';
import { boundNames, valueOfBound } from '../core/report/bound.ts';
import { exchangesOf } from '../core/report/exchange.ts';
import { plainTextOf } from '../core/template/template.ts';
import { textOf } from '../core/value/text.ts';
import { bodyText } from '../runner/record.ts';
import type { Workspace } from '../runner/workspace.ts';
import type { Io } from './io.ts';
import { apiName, apiOf } from './samples.ts';

/** Records that are looked through for values that a request holds. */
const RECORDS = 10;

/** What is there before a draft: the project, the chain that it is added to, and what its calls were answered. */
export function groundOf(
  workspace: Workspace,
  into: string,
  { api: apiSaid, name }: Readonly<{ api?: string | undefined; name?: string | undefined }>,
  io: Io,
  /** Exchanges that are not looked at: the one that is added. */
  isOwn: (run: string, x: number) => boolean = () => false,
): DraftGround {
  const full = path.resolve(io.cwd, into);
  const file = existsSync(full) ? readSourceFile(full, io.cwd).file : undefined;
  const chain = file && readChain(file).chain;
  const store = openSecrets(workspace.hasProject ? workspace.folder : undefined, io.environment);
  const known = store.all().filter(([, value]) => value !== '' && !store.isCommon(value));
  return {
    apiOf: (url) => {
      const own = apiOf(workspace, url);
      return own && { api: knownApi(workspace, own.api), path: own.path };
    },
    nameOf: (url) => freeApiName(apiSaid ?? apiName(url), workspace),
    secrets: new Map(known.map(([each, value]) => [value, each])),
    callName: name,
    ...(chain ? groundOfChain(chain, workspace, isOwn) : NO_CHAIN),
  };
}

type ChainGround = Pick<DraftGround, 'calls' | 'names' | 'chainApi' | 'kept' | 'responses'>;

const NO_CHAIN: ChainGround = { calls: new Set(), names: new Set(), chainApi: undefined, kept: [], responses: [] };

function groundOfChain(
  chain: Chain,
  { project, recordFolder }: Workspace,
  isOwn: (run: string, x: number) => boolean,
): ChainGround {
  const records = listRuns(recordFolder)
    .slice(0, RECORDS)
    .flatMap((id) => readRun(recordFolder, id) ?? []);
  const names = new Set(namesBoundIn(chain));
  const only = project?.apis.length === 1 ? project.apis[0]!.name : undefined;
  return {
    calls: new Set(callsOf(chain).map((call) => call.name)),
    names,
    chainApi: chain.api?.text ?? only,
    kept: keptBy(records, names),
    responses: [...records].reverse().flatMap((record) => responsesOf(record, chain, isOwn)),
  };
}

function freeApiName(plain: string, { project }: Workspace): string {
  const names = new Set(project?.apis.map(({ name }) => name));
  let name = plain;
  for (let i = 2; names.has(name); i++) name = `${plain}_${i}`;
  return name;
}

/** Every name that a chain binds, wherever that is. */
function namesBoundIn({ inputs, steps }: Chain): readonly string[] {
  return [...inputs, ...allSteps(steps).flatMap(bindingsOf)].map(({ name }) => name);
}

/** What the last runs bound under names of the chain, as texts. */
function keptBy(records: readonly RecordedRun[], names: ReadonlySet<string>): DraftGround['kept'] {
  return records
    .flatMap(({ events }) => boundNames(events))
    .flatMap((bound) => {
      const value = names.has(bound.name) ? valueOfBound(bound) : undefined;
      const text = value === undefined || value === null ? undefined : textOf(value);
      return typeof text === 'string' ? [{ name: bound.name, call: bound.call ?? 'an earlier step', text }] : [];
    });
}

/** Recorded JSON responses of calls that the chain has: by their names in runs, by what was sent in single requests. */
function responsesOf(
  record: RecordedRun,
  chain: Chain,
  isOwn: (run: string, x: number) => boolean,
): readonly KnownResponse[] {
  const calls = callsOf(chain);
  return exchangesOf(record.events).flatMap(({ sent, answered }) => {
    if (isOwn(record.id, sent.x) || !answered?.body) return [];
    const named = calls.find(({ name }) => name === stepName(sent.step));
    const call = named ?? calls.find((each) => isRequestOf(each, sent.request));
    const text = call && bodyText(record, answered.body);
    const body = plainJson(text);
    return body === undefined ? [] : [{ call: call!.name, body }];
  });
}

/** Whether a request that was sent by itself is the one that a call sends: method and path, placeholders as any segment. */
function isRequestOf({ request: { line } }: CallStep, sent: Readonly<{ method: string; url: string }>): boolean {
  if (!line || line.method !== sent.method) return false;
  const target = line.source.text.slice(line.method.length + 1).split('?', 1)[0]!;
  const pattern = target
    .split(/(\{[^}]*\})/)
    .map((part) => (part.startsWith('{') ? '[^/]+' : part.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')))
    .join('');
  return new RegExp(`${pattern}$`).test(sent.url.split('?', 1)[0]!);
}

/** What an api of the project sends by itself, at any of its deployments. */
export function knownApi({ project }: Workspace, name: string): KnownApi {
  const endpoints = project?.apis.find((each) => each.name === name)?.endpoints ?? [];
  const headers = endpoints[0]?.headers.flatMap(({ name: header, value }) => {
    const text = value.kind === 'text' ? plainTextOf(value) : undefined;
    return text === undefined ? [] : [[header.toLowerCase(), text] as const];
  });
  const carriers = endpoints.flatMap(({ auth }) => auth?.carriers ?? []);
  return { name, credentials: new Set(carriers.map((each) => each.toLowerCase())), headers: new Map(headers) };
}
