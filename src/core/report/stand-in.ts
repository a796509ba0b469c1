import type { Header } from '../http/message.ts';
import { headerOf } from '../http/message.ts';
import type { BodyRef } from '../journal/records.ts';
import { writtenPath } from '../path/normalized.ts';
import { differences } from '../value/difference.ts';
import { readJson } from '../value/json-read.ts';
import { percentDecoded } from '../value/percent.ts';
import { tookOf, type ExchangeRecord } from './exchange.ts';

/** A request that is to be answered as a recorded one was; `target` is its path with the query. */
export type AskedRequest = Readonly<{
  method: string;
  target: string;
  type: string | undefined;
  body: string;
  headers?: readonly Header[];
}>;

/** What it is answered: as recorded, with no response at all, or with the nearest recorded request where there is none. */
export type StandInAnswer =
  | Readonly<{ status: number; headers: readonly Header[]; body: Uint8Array; tookMs: number; note?: string }>
  | Readonly<{ broken: string; tookMs: number }>
  | Readonly<{ unknown: string }>;

/** One recorded request with its body, and what was answered. */
type RecordedAnswer = Readonly<{
  method: string;
  url: URL;
  /** Nothing where the record does not hold it whole: then any body is the same. */
  body: string | undefined;
  type: string | undefined;
  exchange: ExchangeRecord;
}>;

/** Headers of how a body went over the wire, which it does otherwise here. */
const OF_THE_WAY = /^(?:transfer-encoding|content-length|content-encoding|connection|keep-alive|upgrade|alt-svc)$/i;

const MASK = /\u2039([^\u2039\u203a]+)\u203a/g;

/**
 * Answers as the server of a recorded run did: by method, path, query and body, the same request in the order of the
 * record, then with the last again. Where the record has a mask anything may stand.
 */
export class StandIn {
  private readonly groups: RecordedAnswer[][] = [];
  /** Those at one path, which are looked at first. */
  private readonly byPlace = new Map<string, RecordedAnswer[][]>();
  private readonly asked = new Map<RecordedAnswer[], number>();
  private readonly origins: readonly string[];
  /** Recorded responses whose body is not held, and which are not given. */
  readonly leftOut: number;

  constructor(
    exchanges: readonly ExchangeRecord[],
    private readonly bodyOf: (ref: BodyRef | undefined) => Uint8Array | undefined,
    /** The origin that takes the place of the recorded ones in headers and bodies. */
    private readonly origin: string,
  ) {
    const kept = exchanges.filter(({ answered, broken }) => (answered ? isHeld(answered.body) : broken !== undefined));
    this.leftOut = exchanges.length - kept.length;
    const known = new Map<string, RecordedAnswer[]>();
    for (const exchange of kept) {
      const recorded = this.recorded(exchange);
      const { method, url, body } = recorded;
      const key = JSON.stringify([method, url.href, body]);
      const group = known.get(key) ?? [];
      if (group.push(recorded) > 1) continue;
      known.set(key, group);
      this.groups.push(group);
      const place = placeOf(method, url.pathname);
      this.byPlace.set(place, [...(this.byPlace.get(place) ?? []), group]);
    }
    this.origins = [...new Set(this.groups.flat().map(({ url }) => url.origin))];
  }

  /** Requests that differ from each other. */
  get size(): number {
    return this.groups.length;
  }

  answer(request: AskedRequest): StandInAnswer {
    const near = this.byPlace.get(placeOf(request.method, request.target.split('?')[0]!)) ?? [];
    const group = [...near, ...this.groups].find(([first]) => differenceOf(first!, request) === undefined);
    if (!group) return { unknown: this.nearest(request) };
    const at = this.asked.get(group) ?? 0;
    this.asked.set(group, at + 1);
    const { exchange } = group[Math.min(at, group.length - 1)]!;
    const tookMs = tookOf(exchange) ?? 0;
    const { answered, broken } = exchange;
    if (!answered) return { broken: broken!.message, tookMs };
    const headers = answered.headers.filter(([name]) => !OF_THE_WAY.test(name));
    return {
      status: answered.status,
      headers: headers.map(([name, value]): Header => [name, this.here(value.replace(MASK, '$1'))]),
      body: this.bodyHere(answered.body),
      tookMs,
    };
  }

  private recorded(exchange: ExchangeRecord): RecordedAnswer {
    const { method, url, headers, body } = exchange.sent.request;
    const content = isHeld(body) ? this.bodyOf(body) : undefined;
    const text = content && new TextDecoder().decode(content);
    const whole = body && !isHeld(body) ? undefined : (text ?? '');
    return { method, url: new URL(url), body: whole, type: headerOf(headers, 'content-type'), exchange };
  }

  /** Texts lead here, where they led to a recorded server. */
  private here(text: string): string {
    return this.origins.reduce((so, each) => so.replaceAll(each, this.origin), text);
  }

  private bodyHere(ref: BodyRef | undefined): Uint8Array {
    const content = this.bodyOf(ref) ?? new Uint8Array();
    if (!/json|text|xml|javascript/i.test(ref?.type ?? '')) return content;
    return new TextEncoder().encode(this.here(new TextDecoder().decode(content)));
  }

  /** The recorded request that differs least, and in what. */
  private nearest(request: AskedRequest): string {
    const ranked = this.groups
      .map(([first]) => ({ first: first!, difference: differenceOf(first!, request)! }))
      .sort((a, b) => b.difference.rank - a.difference.rank);
    const [best] = ranked;
    if (!best) return 'The run has no requests';
    const { method, url } = best.first;
    return `The nearest is ${method} ${url.pathname}${url.search}: ${best.difference.text}`;
  }
}

function placeOf(method: string, path: string): string {
  return `${method} ${percentDecoded(path)}`;
}

function isHeld(ref: BodyRef | undefined): boolean {
  return !ref || !('dropped' in ref);
}

type RequestDifference = Readonly<{ rank: number; text: string }>;

/** In what a request differs from a recorded one: the more of it fits before that, the higher the rank. */
function differenceOf(recorded: RecordedAnswer, request: AskedRequest): RequestDifference | undefined {
  const [path, query = ''] = request.target.split('?');
  const pathFits = isLike(recorded.url.pathname, path!);
  if (!pathFits)
    return {
      rank: closeness(recorded.url.pathname, path!) + (recorded.method === request.method ? 0.1 : 0),
      text: 'its path is another',
    };
  if (recorded.method !== request.method) return { rank: 2, text: `its method is ${recorded.method}` };
  const ofQuery = queryDifference(recorded.url.searchParams, new URLSearchParams(query));
  if (ofQuery !== undefined) return { rank: 3, text: ofQuery };
  const ofBody = bodyDifference(recorded, request);
  return ofBody === undefined ? undefined : { rank: 4, text: ofBody };
}

/** Whether a text is a recorded one; a mask stands for anything. */
function isLike(recorded: string, text: string): boolean {
  const plain = percentDecoded(recorded);
  if (!plain.includes('\u2039')) return plain === percentDecoded(text);
  const parts = plain.split(MASK).filter((_, i) => i % 2 === 0);
  const pattern = parts.map((part) => part.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')).join('[^]*');
  return new RegExp(`^${pattern}$`).test(percentDecoded(text));
}

/** The share of segments at the start that two paths have in common. */
function closeness(one: string, other: string): number {
  const [a, b] = [one.split('/'), other.split('/')];
  const same = a.filter((segment, i) => segment === b[i]).length;
  return same / Math.max(a.length, b.length);
}

function queryDifference(recorded: URLSearchParams, asked: URLSearchParams): string | undefined {
  const rest = [...asked];
  for (const [name, value] of recorded) {
    const at = rest.findIndex(([each, text]) => each === name && isLike(value, text));
    if (at >= 0) rest.splice(at, 1);
    else if (asked.has(name)) return `the parameter ${name} is ${JSON.stringify(value)} there`;
    else return `it has the parameter ${name} as well`;
  }
  return rest.length === 0 ? undefined : `it has no parameter ${rest[0]![0]}`;
}

function bodyDifference({ body: recorded, type }: RecordedAnswer, { body }: AskedRequest): string | undefined {
  // Boundaries are made anew for each request.
  if (recorded === undefined || recorded === body || /^multipart\//i.test(type ?? '')) return undefined;
  const [wanted, found] = [readJson(recorded), readJson(body)];
  if (wanted.ok && found.ok) {
    const [first] = differences(wanted.value, found.value, {
      atLeast: false,
      alike: (value) => typeof value === 'string' && /^\u2039[^\u203a]+\u203a$/.test(value),
    });
    return first && `in its body ${writtenPath(first.keys)}: ${first.text}`;
  }
  if (/urlencoded/i.test(type ?? '')) return queryDifference(new URLSearchParams(recorded), new URLSearchParams(body));
  return isLike(recorded, body) ? undefined : 'its body is another';
}
