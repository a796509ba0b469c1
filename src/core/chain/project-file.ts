import type { Diagnostic, Source, SourceFile } from '../diagnostics/source.ts';
import { present } from '../value/present.ts';
import { adviceOf, didYouMean } from '../diagnostics/suggest.ts';
import type { Problem, Range } from '../diagnostics/problem.ts';
import { authKeys } from '../http/auth/list.ts';
import type { ConnectionTemplate, Endpoint } from '../http/endpoint.ts';
import { DEFAULT_TIMEOUTS } from '../http/message.ts';
import { named, text, word, type Named } from '../schema/leaves.ts';
import { inputOf, type JsonSchema } from '../schema/input.ts';
import { mapping, readShape } from '../schema/shape.ts';
import { MIDNIGHT_UTC, type RateLimit } from '../pacing/rate-limit.ts';
import { DEFAULT_MAX_WAIT_MS } from '../pacing/retry.ts';
import { plainText, textsOf, type TextTemplate } from '../template/template.ts';
import type { Value } from '../value/value.ts';
import { zoneProblem } from '../value/zones.ts';
import { readYaml } from '../yaml/read.ts';
import { api, deployment, OWN_KEYS, shared, type ApiEntry, type Shared } from './api-shape.ts';
import { collect } from './collect.ts';
import { withLocal } from './local-overrides.ts';
import { declaredSecret, readSecrets, type DeclaredSecret } from './declared-secrets.ts';
import { secretsInTexts } from './secrets-asked.ts';
import { suggestKey } from './suggest-key.ts';

const NO_LIMIT: RateLimit = { windows: [], quotas: [] };
/** Requests in flight unless said. */
const DEFAULT_CONCURRENCY = 6;

const projectFile = mapping({
  zone: word('a time zone')
    .optional()
    .describe('The time zone of today(), start_of() and formatted(): an IANA name. Default: UTC.'),
  apis: named(api).describe('The APIs of the project, by name.'),
  redis: text('a URL')
    .optional()
    .describe(
      'The Redis in which limits are shared by all processes that name it: redis://HOST:PORT, or rediss:// with TLS.',
    ),
  secrets: named(declaredSecret)
    .optional()
    .describe(
      'Secrets by name: the APIs that chains may send them to beside those whose keys read them, or a command.',
    ),
});

/** An api of the project: the endpoints of its deployments by name, or the one that it has. */
export type Api = Readonly<{
  name: string;
  /** The endpoint of each deployment; the name of the only one of an api without deployments is `undefined`. */
  endpoints: readonly Endpoint[];
  defaultDeployment: string | undefined;
  nameRange: Range;
}>;

export type Project = Readonly<{
  file: SourceFile;
  /** The file of one's own overrides, where it is there. */
  local: SourceFile | undefined;
  apis: readonly Api[];
  zone: string;
  /** The URL of the Redis in which limits are shared. */
  redis: TextTemplate | undefined;
  secrets: readonly DeclaredSecret[];
}>;

/** A project file as JSON Schema (2020-12). */
export function projectInput(): JsonSchema {
  return inputOf(projectFile).json;
}

/** The keys of a project file, an api and a deployment, for the reference. */
export const projectShapes = { project: projectFile, api, deployment };

/** Reads `batharon.yaml`, with one's own overrides of `batharon.local.yaml`. */
export function readProject(
  file: SourceFile,
  local?: SourceFile,
): Readonly<{ project: Project | undefined; diagnostics: readonly Diagnostic[] }> {
  let ofLocal: readonly Diagnostic[] = [];
  const read = collect(file, (reading) => {
    const tree = readYaml(reading);
    if (!tree) return { project: undefined };
    const given = readShape(projectFile, { node: tree, reading }, (key, path) => suggestKey(key, keysAt(path)));
    if (!given) return { project: undefined };
    const zone = zoneOf(given.zone, reading.report);
    const overridden = local && withLocal(given.apis, local, keysAt);
    ofLocal = overridden?.diagnostics ?? [];
    const apis = (overridden?.apis ?? given.apis).map((entry) => readApi(entry, reading.report));
    const secrets = readSecrets(given.secrets ?? [], apis, reading.report);
    return { project: { file, local, apis, zone, redis: given.redis, secrets } };
  });
  return { ...read, diagnostics: [...read.diagnostics, ...ofLocal] };
}

/** The time zone that is said, UTC where it is none. */
function zoneOf(said: Source | undefined, report: Report): string {
  const problem = said && zoneProblem(said.text);
  if (problem) report({ ...problem, range: said.locate([0, said.text.length]) });
  return problem ? 'UTC' : (said?.text ?? 'UTC');
}

/** The keys that may stand at a place of the project file, for suggestions. */
function keysAt(path: readonly PropertyKey[]): readonly string[] {
  if (path.length === 0) return Object.keys(projectFile.shape);
  if (path.length === 2) return Object.keys(api.shape);
  if (path.at(-2) === 'deployments') return Object.keys(shared);
  const words: Readonly<Record<string, readonly string[]>> = {
    ...authKeys,
    timeout: ['connect', 'response', 'idle', 'whole'],
    tls: ['ca', 'cert', 'key', 'verify'],
  };
  return words[String(path.at(-1))] ?? [];
}

function readApi(entry: ApiEntry, report: Report): Api {
  const { name, nameRange, value, file } = entry;
  const deployments = value.deployments ?? [];
  checkUrls(entry, report);
  checkWays(entry, report);
  if (deployments.length > 0) checkShared(entry, report);
  checkDefault(entry, report);
  const places = deployments.length > 0 ? deployments : [{ name: undefined, value }];
  return {
    name,
    nameRange,
    endpoints: places.map((each) => endpointOf(name, each.name, value, each.value, file)),
    defaultDeployment: value['default-deployment']?.text ?? onlyNameOf(deployments),
  };
}

type Report = (problem: Problem) => void;

function onlyNameOf(deployments: readonly Readonly<{ name: string }>[]): string | undefined {
  return deployments.length === 1 ? deployments[0]!.name : undefined;
}

/** An api has a url, or deployments that have one each. */
function checkUrls({ name, nameRange: range, value }: ApiEntry, report: Report): void {
  const deployments = value.deployments ?? [];
  const hasDeployments = deployments.length > 0;
  if (value.url && hasDeployments) {
    const message = `The API "${name}" has a url, and deployments with their own`;
    report({ code: 'keys-clash', range, message, advice: 'Move it to one of them.' });
  }
  if (!value.url && !hasDeployments) {
    const message = `The API "${name}" has no url`;
    report({ code: 'key-missing', range, message, advice: 'Add url, or deployments with a url each.' });
  }
  for (const each of deployments.filter((deployment) => !deployment.value.url)) {
    const message = `The deployment "${each.name}" has no url`;
    report({ code: 'key-missing', range: each.nameRange, message, advice: 'Every deployment needs its own.' });
  }
}

/** There is one way to an api. */
function checkWays({ name, nameRange, value }: ApiEntry, report: Report): void {
  const places = value.deployments?.length ? value.deployments : [{ name, nameRange, value }];
  for (const { nameRange: range, value: own } of places) {
    const [first, second] = (['connect-to', 'unix', 'proxy'] as const).filter((key) => own[key]);
    if (second === undefined) continue;
    report({
      code: 'keys-clash',
      range,
      message: `${first} and ${second} are two ways to one server`,
      advice: 'Keep one.',
    });
  }
}

/** Above deployments stands nothing that belongs to one of them. */
function checkShared({ name, nameRange, value }: ApiEntry, report: Report): void {
  for (const key of OWN_KEYS.filter((each) => value[each])) {
    const advice = `It belongs to a deployment: move ${key} to each.`;
    report({ code: 'keys-clash', range: nameRange, message: `The API "${name}" has ${key} and deployments`, advice });
  }
  for (const { name: key, nameRange: range, value: shared } of [...(value.headers ?? []), ...(value.query ?? [])]) {
    if (secretsInTexts(textsOf(shared)).length === 0) continue;
    const advice = 'A secret belongs to a deployment: move it to each.';
    report({ code: 'keys-clash', range, message: `"${key}" contains a secret, and the API has deployments`, advice });
  }
}

function checkDefault({ name, value }: ApiEntry, report: Report): void {
  const wanted = value['default-deployment'];
  const names = (value.deployments ?? []).map((each) => each.name);
  if (!wanted || names.includes(wanted.text)) return;
  const range = wanted.locate([0, wanted.text.length]);
  const message = `The API "${name}" has no deployment "${wanted.text}"`;
  report({ code: 'unknown-deployment', range, message, ...adviceOf(didYouMean(wanted.text, names)) });
}

/** What a deployment says goes before what its api says, key by key; its url and credentials are always its own. */
function endpointOf(api: string, name: string | undefined, above: Shared, own: Shared, file: SourceFile): Endpoint {
  const settings = [...(above.settings ?? []), ...(own.settings ?? [])];
  const said = { ...above, ...present(own) };
  return {
    api,
    deployment: name,
    url: own.url ?? plainText({ file, text: '', locate: (range) => range }),
    auth: own.auth,
    headers: overridden(above.headers, own.headers),
    query: overridden(above.query, own.query),
    ...limitsOf(said),
    retry: said.retry,
    changes: said.changes,
    redirects: said.redirects,
    connection: connectionOf(name === undefined ? own : { ...own, http2: said.http2 }),
    expect: name === undefined ? (own.expect ?? []) : [...(above.expect ?? []), ...(own.expect ?? [])],
    contract: said.contract,
    errorMessage: said['error-message'],
    settings: Object.fromEntries(settings.map((entry): [string, Value] => [entry.name, entry.value.value])),
    settingSources: settings.map((entry) => ({ name: entry.name, source: entry.value.source })),
  };
}

/** How much at a time, and how long: what is not said is as it usually is. */
function limitsOf(said: Partial<Shared>) {
  return {
    timeouts: said.timeout ?? DEFAULT_TIMEOUTS,
    rateLimit: said['rate-limit'] ?? NO_LIMIT,
    resets: said.resets ?? MIDNIGHT_UTC,
    concurrency: Math.max(1, said.concurrency ?? DEFAULT_CONCURRENCY),
    totalConcurrency: said['total-concurrency'] && Math.max(1, said['total-concurrency']),
    maxWaitMs: said['max-wait'] ?? DEFAULT_MAX_WAIT_MS,
  };
}

type ConnectionKey = 'tls' | 'proxy' | 'http2' | 'connect-to' | 'unix';

/** TLS and proxy belong to one deployment, as its credentials do. */
function connectionOf({ tls, proxy, http2, ...own }: Pick<Shared, ConnectionKey>): ConnectionTemplate {
  return {
    ca: tls?.ca,
    cert: tls?.cert,
    key: tls?.key,
    verify: tls?.verify ?? true,
    proxy,
    connectTo: own['connect-to'],
    unix: own.unix,
    http2: http2 ?? false,
  };
}

function overridden<T>(above: Named<T> | undefined, own: Named<T> | undefined): Named<T> {
  if (!above || above === own) return own ?? [];
  const replaced = new Set(own?.map((entry) => entry.name.toLowerCase()));
  return [...above.filter((entry) => !replaced.has(entry.name.toLowerCase())), ...(own ?? [])];
}
