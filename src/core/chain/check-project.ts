import type { At } from './endpoint-at.ts';
import { diagnosticAt, diagnosticIn, sorted, wholeOf, type Diagnostic, type Source } from '../diagnostics/source.ts';
import type { Problem } from '../diagnostics/problem.ts';
import type { Node, PathNode } from '../expression/model.ts';
import type { Endpoint } from '../http/endpoint.ts';
import { didYouMean } from '../diagnostics/suggest.ts';
import type { FileRead } from '../expression/host.ts';
import { pemProblem } from '../http/pem.ts';
import { present } from '../value/present.ts';
import { plainTextOf, type TextTemplate } from '../template/template.ts';
import { rules } from './checks/list.ts';
import { namesAreUsed } from './checks/names-are-used.ts';
import { checkHeaderNames } from './checks/requests-make-sense.ts';
import { ruleContext, type RuleSurroundings } from './checks/rule.ts';
import type { CallStep, Chain } from './model.ts';
import type { Project } from './project-file.ts';
import { isRedisUrl, REDIS_URL, secretNameOf } from './redis-url.ts';
import { textsOfEndpoint } from './secrets-asked.ts';
import { checkNamed } from './checks/credentials-are-secrets.ts';
import { looksLikeSecret } from './looks-like-secret.ts';
import { eachNode, walkChain } from './walk.ts';

/** What is wrong with a project file beyond its shape: its placeholders, which see secrets and settings only, and its URLs. */
export function checkProject(project: Project, around: ProjectSurroundings): readonly Diagnostic[] {
  const found: Diagnostic[] = [];
  for (const endpoint of project.apis.flatMap(({ endpoints }) => endpoints)) {
    checkUrl(endpoint, found);
    checkHeaderNames(endpoint.headers, (file, problem) => found.push(diagnosticAt(file, problem)));
    checkCredentials(endpoint, found);
    checkConnection(endpoint, around, found);
    checkContract(endpoint, around, found);
    checkExpectations(endpoint, project, around, found);
    for (const { pieces } of textsOfEndpoint(endpoint)) {
      for (const piece of pieces)
        if (typeof piece !== 'string') checkPlaceholder(piece.node, piece.source, endpoint, found);
    }
  }
  if (project.redis) checkRedis(project.redis, found);
  else checkTotals(project, found);
  // What stands under an api is shared by its deployments, and told once.
  const told = new Set<string>();
  return sorted(found).filter(({ code, range, message }) => {
    const key = `${code} ${range.join(' ')} ${message}`;
    return told.has(key) ? false : told.add(key);
  });
}

/** What several processes share needs a place where they do. */
function checkTotals({ apis }: Project, found: Diagnostic[]): void {
  for (const { endpoints } of apis) {
    const total = endpoints.find(({ totalConcurrency }) => totalConcurrency !== undefined);
    if (!total) continue;
    const { api, url } = total;
    const message = `total-concurrency of "${api}" holds for several processes, and the project names no redis`;
    const advice =
      'Name one at the top: redis: redis://HOST:6379, or set BATHARON_REDIS. concurrency is for one process.';
    found.push(
      diagnosticIn(url.source, { code: 'needs-redis', range: wholeOf(url.source), message, advice, level: 'warning' }),
    );
  }
}

/** Where limits are shared is the same for all deployments, so only secrets stand in its URL. */
function checkRedis(redis: TextTemplate, found: Diagnostic[]): void {
  const { source, pieces } = redis;
  const add = (problem: Problem) => void found.push(diagnosticIn(source, problem));
  if (!isRedisUrl(sampleOf(redis))) {
    const message = 'This is not the URL of a Redis';
    add({ code: 'invalid-target', range: wholeOf(source), message, advice: REDIS_URL });
  }
  for (const piece of pieces) {
    if (typeof piece === 'string' || secretNameOf(piece.node) !== undefined) continue;
    const message = 'Only secrets can be placeholders here';
    const advice = 'Example: rediss://:{secret.REDIS_PASSWORD}@redis.example:6380';
    add({ code: 'invalid-placeholder', range: piece.range, message, advice });
  }
}

/** A text with something in the place of each placeholder, to see what form it has. */
function sampleOf({ pieces }: TextTemplate): string {
  return pieces.map((piece) => (typeof piece === 'string' ? piece : 'x')).join('');
}

const NOWHERE: At = { all: undefined, byApi: {} };

/** What checking a project file may ask of what is around it. */
export type ProjectSurroundings = RuleSurroundings & Readonly<{ readNamedFile(path: string): FileRead }>;

/** The description can be read; parts of it that cannot be are warnings, and all else of it is used. */
function checkContract({ contract: use }: Endpoint, { contractOf }: ProjectSurroundings, found: Diagnostic[]): void {
  if (!use) return;
  const { file } = use;
  const contract = contractOf(file.text);
  const problems =
    'message' in contract
      ? [{ ...contract, level: undefined }]
      : contract.description.faults.map((fault) => ({
          ...contract.description.problemOf(fault),
          level: 'warning' as const,
        }));
  for (const { file: at, line, message, advice, level } of problems) {
    const where = line === undefined ? '' : `${at}:${line}: `;
    const problem = { code: 'invalid-contract' as const, range: wholeOf(file), message: `${where}${message}` };
    found.push(diagnosticIn(file, { ...problem, ...present({ advice, level }) }));
  }
}

/** Certificates and keys can be read, and are used. */
function checkConnection(
  { connection: { ca, cert, key, verify }, url }: Endpoint,
  { readNamedFile }: ProjectSurroundings,
  found: Diagnostic[],
): void {
  for (const [what, template] of Object.entries({ ca, cert, key }) as ['ca' | 'cert' | 'key', typeof ca][]) {
    const name = template && plainTextOf(template);
    if (!template || name === undefined) continue;
    const read = readNamedFile(name);
    const { source } = template;
    const unfit = 'bytes' in read ? pemProblem(what, name, read.bytes) : undefined;
    if ('bytes' in read && unfit === undefined) continue;
    const { message, advice } = 'bytes' in read ? { message: unfit!, advice: undefined } : read;
    const problem = { code: 'key-not-readable' as const, range: wholeOf(source), message };
    found.push(diagnosticIn(source, { ...problem, ...(advice ? { advice } : {}) }));
  }
  if (verify) return;
  const message = 'The certificate of this server is not verified: anyone on the network path can impersonate it';
  const advice = 'Trust its authority instead: tls: {ca: file}.';
  found.push(diagnosticIn(url.source, { code: 'not-verified', range: wholeOf(url.source), message, advice }));
}

/** What is expected of every response is checked by the rules for chains, as a call that expects it. */
function checkExpectations(
  { expect, errorMessage, api, retry }: Endpoint,
  project: Project,
  around: RuleSurroundings,
  found: Diagnostic[],
): void {
  if (expect.length === 0 && !errorMessage && !retry?.after) return;
  const name = { file: project.file, text: api, locate: () => [0, 0] as const };
  const keep = errorMessage
    ? [{ name: 'error_text', nameRange: [0, 0] as const, file: project.file, value: errorMessage }]
    : [];
  const call = { ...callExpecting(name, expect, keep), retry };
  const chain: Chain = {
    file: project.file,
    name: '',
    about: undefined,
    tags: [],
    api: name,
    inputs: [],
    steps: [call],
    cleanup: [],
    outputs: [],
  };
  const context = ruleContext(chain, project, NOWHERE, around, found);
  const endpointOf = () => project.apis.find((each) => each.name === api)?.endpoints[0];
  const judging = rules.filter((rule) => rule !== namesAreUsed);
  walkChain(
    chain,
    { endpointOf },
    judging.map((rule) => rule(context)),
  );
}

function callExpecting(name: Source, expect: CallStep['expect'], keep: CallStep['keep']): CallStep {
  return {
    kind: 'call',
    when: undefined,
    once: undefined,
    name: name.text,
    nameSource: name,
    api: undefined,
    request: { line: undefined, query: [], headers: [], body: undefined, auth: undefined, idempotencyKey: undefined },
    timeouts: undefined,
    namespaces: {},
    readAs: undefined,
    save: undefined,
    replace: false,
    maxBodyBytes: undefined,
    untilEvent: undefined,
    paging: undefined,
    poll: undefined,
    retry: undefined,
    maxWaitMs: undefined,
    rateLimit: undefined,
    freshFor: undefined,
    redirects: undefined,
    changes: undefined,
    repeatable: undefined,
    expect,
    keep,
    undo: undefined,
    onFailure: 'stop',
    onStatus: [],
  };
}

function checkPlaceholder(tree: Node, source: Source, endpoint: Endpoint, found: Diagnostic[]): void {
  eachNode(tree, (node) => {
    if (node.kind !== 'path' || node.start.kind === 'value' || node.start.kind === 'item') return;
    const name = node.start.kind === 'name' ? node.start.name : '$';
    if (name === 'secret' || endpoint.auth?.names.includes(name)) return;
    if (name === 'setting') return checkSetting(node, source, endpoint, found);
    const message = `The name ${name} cannot be read in a project file`;
    const advice = 'Placeholders here read secret.NAME and setting.NAME.';
    found.push(diagnosticIn(source, { code: 'unknown-name', range: node.range, message, advice }));
  });
}

function checkSetting({ segments, range }: PathNode, source: Source, endpoint: Endpoint, found: Diagnostic[]): void {
  const { settings, deployment, api } = endpoint;
  const selector = segments[0]?.selectors[0];
  const wanted = selector?.kind === 'name' ? selector.name : '';
  if (Object.hasOwn(settings, wanted)) return;
  const advice = didYouMean(wanted, Object.keys(settings)) ?? 'Add it under settings:.';
  const where = deployment === undefined ? `The API ${api}` : `The deployment ${deployment} of ${api}`;
  const message = `${where} has no setting "${wanted}"`;
  found.push(diagnosticIn(source, { code: 'setting-missing', range, message, advice }));
}

/** Credentials are secrets by name, and do not go over plain http but on this machine. */
function checkCredentials(
  { url, auth, headers, query, settings, settingSources }: Endpoint,
  found: Diagnostic[],
): void {
  const add = (source: Source, problem: Problem) => void found.push(diagnosticIn(source, problem));
  checkNamed(headers, { reportIn: add }, 'header');
  checkNamed(query, { reportIn: add }, 'parameter');
  for (const text of auth?.secrets ?? []) {
    if (plainTextOf(text) === undefined) continue;
    const { source } = text;
    const advice = 'Put it into secrets.env as TOKEN=..., and write "{secret.TOKEN}" here.';
    add(source, { code: 'looks-like-secret', range: wholeOf(source), message: 'This looks like a credential', advice });
  }
  for (const { name, source } of settingSources) {
    const value = settings[name];
    if (typeof value !== 'string' || !looksLikeSecret(value, name)) continue;
    const advice = 'Settings are never masked. Put the value into secrets.env, and read it as secret.NAME.';
    add(source, { code: 'looks-like-secret', range: wholeOf(source), message: 'This looks like a credential', advice });
  }
  for (const each of auth ? [url, ...auth.urls] : []) checkPlainHttp(each, add);
}

function checkPlainHttp(
  { pieces: [first], source }: TextTemplate,
  add: (source: Source, problem: Problem) => void,
): void {
  if (typeof first !== 'string' || !/^http:\/\//.test(first) || LOOPBACK.test(first)) return;
  const message = 'Credentials would be sent over plain http, where anyone on the network path can read them';
  add(source, {
    code: 'plain-http',
    range: wholeOf(source),
    message,
    advice: 'Use https:// if the server supports it.',
  });
}

const LOOPBACK = /^http:\/\/(?:127\.\d+\.\d+\.\d+|localhost|\[::1\])(?:[:/]|$)/;

function checkUrl({ url }: Endpoint, found: Diagnostic[]): void {
  const { source } = url;
  if (source.text === '') return;
  const sample = sampleOf(url);
  const range = wholeOf(source);
  const add = (message: string, advice: string) =>
    found.push(diagnosticIn(source, { code: 'invalid-target', range, message, advice }));
  if (!/^https?:\/\//.test(sample) || !URL.canParse(sample))
    add('This is not a URL', 'A URL begins with http:// or https:// and names a host.');
  else if (sample.includes('?') || sample.includes('#'))
    add('The URL of an API cannot have a query or a fragment', 'Put parameters of every request under query.');
  else if (sample.endsWith('/')) add('The URL of an API cannot end in "/"', 'Remove it: paths begin with one.');
}
