import type { Sample } from './definition.ts';
import { percentDecoded } from '../value/percent.ts';
import { eachScalar, plainJson } from './json-text.ts';
import { Links, type KnownResponse, type Link } from './links.ts';
import type { DraftRequest } from './request.ts';
import { SecretBook, type FoundSecret } from './secret-book.ts';
import { Taker, type Credential, type DraftInput, type TakenRequest } from './take.ts';
import { authLines, callLines, type HowSent } from './write-call.ts';

/** An API that the project has: what is sent with each of its requests. */
export type KnownApi = Readonly<{
  name: string;
  /** Names of headers and parameters by which it authenticates, in lower case. */
  credentials: ReadonlySet<string>;
  headers: ReadonlyMap<string, string>;
}>;

/** An API that the draft adds, as lines under its name; its URL, for messages. */
export type NewApi = Readonly<{ name: string; url: string; lines: readonly string[] }>;

/** What is there already. */
export type DraftGround = Readonly<{
  /** The API that a URL belongs to, and the path under its URL. */
  apiOf(url: string): Readonly<{ api: KnownApi; path: string }> | undefined;
  /** The name of a new API at a URL. */
  nameOf(url: string): string;
  /** Secrets of the project by their values. */
  secrets: ReadonlyMap<string, string>;
  /** Calls and names of the chain that is added to; its default API, where it says one. */
  calls: ReadonlySet<string>;
  names: ReadonlySet<string>;
  chainApi: string | undefined;
  kept: readonly Readonly<{ name: string; call: string; text: string }>[];
  /** Responses of its calls, oldest first. */
  responses: readonly KnownResponse[];
  /** A name for the first call. */
  callName: string | undefined;
}>;

type DraftedCall = Readonly<{ name: string; api: string; lines: readonly string[] }>;

/** What samples become: calls with what they keep, and what must be added around them. */
export type Draft = Readonly<{
  apis: readonly NewApi[];
  calls: readonly DraftedCall[];
  /** What calls of before must keep. */
  keeps: readonly Link[];
  inputs: readonly DraftInput[];
  secrets: readonly FoundSecret[];
  about?: string | undefined;
  /** What the chain gives, by name. */
  outputs?: readonly (readonly [name: string, expression: string])[];
  /** The API of all calls, where it is one. */
  api: string | undefined;
  report: readonly string[];
}>;

type Placed = Readonly<{
  sample: Sample;
  name: string;
  api: string;
  known: KnownApi | undefined;
  base: string;
  path: string;
}>;

/** Makes calls of samples. Credentials become secrets, values of earlier responses names, what is left open inputs. */
export function draftOf(samples: readonly Sample[], ground: DraftGround): Draft {
  const placed = placedSamples(samples, ground);
  const names = new Set(ground.names);
  const links = new Links(wantedBy(samples), names, ground.kept);
  for (const response of ground.responses) links.add(response);
  const jar = new Map<string, string>();
  const taker = new Taker(new SecretBook(ground.secrets), links, (name, value) => jar.get(name) === value);
  const taken = placed.map((each): TakenCall => {
    const request = taker.take({ ...each.sample.request, url: each.path }, each.api);
    for (const [name, value] of each.sample.response?.cookies ?? []) jar.set(name, value);
    const body = plainJson(each.sample.response?.json);
    if (body !== undefined) links.add({ call: each.name, body });
    return { ...each, taken: request };
  });
  const toKeep = links.toKeep();
  const byCall = new Map<string, Link[]>();
  for (const link of toKeep) byCall.set(link.call, [...(byCall.get(link.call) ?? []), link]);
  const apis = [...new Set(placed.map(({ api }) => api))];
  const shared = new Map(apis.map((api) => [api, sharedBy(taken.filter((each) => each.api === api))]));
  const only = apis.length === 1 ? apis[0] : undefined;
  return {
    apis: apis.flatMap((name) => {
      const { known, base: url } = placed.find(({ api }) => api === name)!;
      return known ? [] : [{ name, url, lines: [`url: ${url}`, ...shared.get(name)!.lines] }];
    }),
    calls: taken.map((call) => ({
      name: call.name,
      api: call.api,
      lines: linesOf(call, shared.get(call.api)!, (ground.chainApi ?? only) !== call.api, byCall.get(call.name) ?? []),
    })),
    keeps: toKeep.filter(({ call }) => ground.calls.has(call)),
    inputs: [...taker.inputs.values()].filter(({ name }) => !ground.names.has(name)),
    secrets: taker.secrets.found,
    api: only,
    report: [...taker.report],
  };
}

type TakenCall = Placed & Readonly<{ taken: TakenRequest }>;

function placedSamples(given: readonly Sample[], ground: DraftGround): readonly Placed[] {
  const names = new FreeNames(ground.calls);
  const samples = given.map(withoutUser);
  const bases = newBases(samples, ground);
  return samples.map((sample, i) => {
    const { url } = sample.request;
    const name = names.free((i === 0 ? ground.callName : undefined) ?? callNameOf(sample.request));
    const own = ground.apiOf(url);
    if (own) return { sample, name, api: own.api.name, known: own.api, base: '', path: own.path };
    const base = bases.get(new URL(url).origin)!;
    return { sample, name, api: ground.nameOf(base), known: undefined, base, path: url.slice(base.length) || '/' };
  });
}

/** User information of a URL is basic authentication. */
function withoutUser(sample: Sample): Sample {
  const { request } = sample;
  const found = /^([a-z]+:\/\/)([^/@]*)@(.*)$/is.exec(request.url);
  if (!found) return sample;
  const [, scheme = '', user = '', rest = ''] = found;
  return { ...sample, request: { ...request, url: scheme + rest, basic: request.basic ?? percentDecoded(user) } };
}

/** The URL of each new API: the origin, and the version that all paths at it begin with. */
function newBases(samples: readonly Sample[], ground: DraftGround): ReadonlyMap<string, string> {
  const bases = new Map<string, string>();
  for (const { request } of samples) {
    if (ground.apiOf(request.url)) continue;
    const [, written = '', path = ''] = /^([a-z]+:\/\/[^/]*)(.*)$/is.exec(request.url)!;
    const base = written + (/^(?:\/[^/{}<:]+)*?\/v\d[^/]*(?=\/|$)/.exec(path)?.[0] ?? '');
    const { origin } = new URL(request.url);
    const known = bases.get(origin);
    bases.set(origin, known === undefined || known === base ? base : written);
  }
  return bases;
}

/** A short name for what a request is about: the last part of its path that is a word. */
export function callNameOf({ url, method }: Pick<DraftRequest, 'url' | 'method'>): string {
  const path = url.replace(/^[a-z]+:\/\/[^/]*/i, '');
  const words = path.split('/').filter((part) => /^[A-Za-z][A-Za-z_-]*$/.test(part));
  return (words.at(-1) ?? method).toLowerCase();
}

/** Names of calls, each once: the second of a name is told from the first by a number. */
export class FreeNames {
  private readonly taken: Set<string>;
  private readonly next = new Map<string, number>();

  constructor(taken: ReadonlySet<string>) {
    this.taken = new Set(taken);
  }

  free(plain: string): string {
    let name = plain;
    let number = this.next.get(plain) ?? 2;
    for (; this.taken.has(name); number++) name = `${plain}-${number}`;
    this.next.set(plain, number);
    this.taken.add(name);
    return name;
  }
}

/** Values in requests that an earlier response may have given. */
function wantedBy(samples: readonly Sample[]): ReadonlySet<string> {
  const wanted = new Set<string>();
  for (const { request } of samples) {
    for (const segment of request.url.split('/')) wanted.add(percentDecoded(segment));
    for (const [, value] of request.query) wanted.add(value);
    for (const [, value] of request.headers) wanted.add(value.replace(/^[A-Za-z-]+ /, '')).add(value);
    const { body } = request;
    if (body?.kind === 'form') for (const [, value] of body.fields) wanted.add(value);
    if (body?.kind === 'json') eachScalar(plainJson(body.text), (text) => wanted.add(text));
  }
  return wanted;
}

/** What all calls of a new API have in common, and how their own lines leave it out. */
type Shared = Readonly<{ lines: readonly string[]; how: HowSent }>;

function sharedBy(calls: readonly TakenCall[]): Shared {
  const [first] = calls;
  const { known } = first!;
  if (known) return { lines: [], how: { credentials: known.credentials, headers: known.headers } };
  const inAll = (fits: (call: TakenCall) => boolean) => calls.every(fits);
  const credentials = first!.taken.credentials.filter(
    (each) => !each.isLinked && inAll(({ taken }) => taken.credentials.some((other) => isSame(each, other))),
  );
  const { basic } = first!.taken;
  const hasBasic = basic && !basic.isLinked && inAll(({ taken }) => taken.basic?.password === basic.password);
  const headers =
    calls.length < 2
      ? []
      : first!.taken.request.headers.filter(([name, value]) =>
          inAll(({ taken }) => taken.request.headers.some((other) => other[0] === name && other[1] === value)),
        );
  return {
    lines: authLines(hasBasic ? basic : undefined, credentials, headers),
    how: {
      credentials: new Set([
        ...credentials.map(({ name }) => name.toLowerCase()),
        ...(hasBasic ? ['authorization'] : []),
      ]),
      headers: new Map(headers.map(([name, value]) => [name.toLowerCase(), value])),
    },
  };
}

function isSame(one: Credential, other: Credential): boolean {
  return one.place === other.place && one.name === other.name && one.value === other.value;
}

function linesOf(
  { taken, name, api, sample }: TakenCall,
  { how }: Shared,
  saysApi: boolean,
  links: readonly Link[],
): readonly string[] {
  const keeps = links.map((link) => [link.name, link.expression] as const);
  return callLines(taken, name, how, {
    api: saysApi ? api : undefined,
    keeps,
    status: sample.response?.status,
    hasApi: true,
  });
}
