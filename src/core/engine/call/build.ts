import type { ProblemRecord } from '../../journal/records.ts';
import { withContentCoding } from '../../http/content-coding.ts';
import { placeholdersOfRequest } from '../../chain/parts.ts';
import { diagnosticIn, wholeOf } from '../../diagnostics/source.ts';
import { secretIn, type Mark } from '../../expression/secrecy.ts';
import type { ValueTemplate } from '../../template/template.ts';
import { headerText } from '../../http/headers.ts';
import type { Auth, Authenticator, Credential, Signing } from '../../http/auth/definition.ts';
import {
  buildRedirected,
  buildRequest,
  withCookies,
  withCredentials,
  type BuildContext,
  type BuiltRequest,
  type PageRequest,
} from '../../http/build-request.ts';
import { maskedByName } from '../../http/shown-request.ts';
import type { Endpoint, RequestTemplate } from '../../http/endpoint.ts';
import type { BodyHost } from '../../http/bodies/definition.ts';
import type { Header, HttpRequest, OpenedFile } from '../../http/message.ts';
import type { Redirect } from '../../http/redirect.ts';
import { fillFault, fillText } from '../../template/fill.ts';
import type { StepFrame } from '../frame.ts';
import { catchFillFault, type Filled } from '../fill.ts';
import { problemRecord } from '../places.ts';
import { secretInTemplate } from '../../template/secrecy.ts';
import { serverOf } from './site.ts';
import { resolversFor, type Resolvers } from '../resolvers.ts';

/** A request, the record of it with masks in place of secrets, and whether it goes to the api's own origin. */
export type Pair = Readonly<{ sent: HttpRequest; shown: HttpRequest; isOwn: boolean }>;

/** What bodies of one step are built with. */
class StepBodyHost implements BodyHost {
  constructor(private readonly context: StepFrame) {}

  get namedFiles(): ReadonlySet<string> {
    return this.context.runHost.namedFiles;
  }

  /** The same for every try. */
  get boundary(): string {
    return `part-${hexOf(this.context.host.fixedBytes('boundary', 16))}`;
  }

  openFile(path: string): OpenedFile {
    return this.context.runHost.openFile(path);
  }
}

/** Builds the requests of one call: its placeholders are evaluated once, for all of its tries and hops. */
export class RequestBuilder {
  /** Headers that were left out because a redirect led to another origin. */
  dropped: readonly string[] = [];
  private firstUrl: string | undefined;
  /** What came to stand in the header that makes the request one and the same. */
  idempotencyKey: string | undefined;

  constructor(
    private readonly template: RequestTemplate,
    private readonly endpoint: Endpoint | undefined,
    private readonly context: StepFrame,
    readonly resolvers: Resolvers = resolversFor(context, endpoint),
  ) {}

  first(page?: PageRequest): Filled<Pair> {
    const pair = this.pair((context) => buildRequest(context, page));
    if ('problem' in pair) return pair;
    this.firstUrl ??= pair.value.sent.url;
    return this.leavingSecret(pair.value) ?? pair;
  }

  /** A secret of one api in a request to another, or to a server that is none of the project's. */
  private leavingSecret({ sent: { url }, isOwn }: Pair): Readonly<{ problem: ProblemRecord }> | undefined {
    const { context, template, endpoint } = this;
    const to = serverOf(url, isOwn, endpoint);
    for (const { node, source } of placeholdersOfRequest(template)) {
      const secrecy = secretIn(node, context.secretNames);
      const mark = secrecy?.marks.find((each) => !context.run.mayCarry(each, to));
      if (!secrecy || !mark) continue;
      const name = mark.secret ?? secrecy.name;
      const where = to.includes('://') ? 'a server that is no API of the project' : `the API ${to}`;
      const message = `The secret ${name} would be sent to ${where}`;
      const advice = howToLet(mark, name, to);
      const problem = { code: 'secret-leaves-api' as const, range: node.range, message, advice };
      return { problem: problemRecord(diagnosticIn(source, problem)) };
    }
    return undefined;
  }

  redirected(redirect: Extract<Redirect, { url: string }>): Filled<Pair> {
    const dropped = new Set<string>();
    const isSecret = (value: ValueTemplate) => secretInTemplate(value, this.context.secretNames) !== undefined;
    const led = { from: this.firstUrl!, isSecret, dropped: (name: string) => void dropped.add(name) };
    const pair = this.pair((context) => buildRedirected({ ...context, led }, redirect));
    this.dropped = [...dropped];
    return pair;
  }

  /** The pair with what a credential adds, and cookies. */
  signed(pair: Pair, auth: Authenticator | undefined, cookies: CookiePair | undefined): Filled<Pair> {
    return catchFillFault(() => {
      const sent = withCookies(pair.sent, cookies?.sent);
      const shown = withCookies(maskedByName(pair.shown, NO_NAMES), cookies?.shown);
      if (!auth) return { ...pair, sent, shown };
      const credentials = auth.credentials(sent, this.signing(this.resolvers.real));
      for (const credential of credentials) this.refuseUnsendable(credential);
      const inRecord = auth.credentials(shown, this.signing(this.resolvers.masked));
      const names = new Set(inRecord.map(({ name }) => name.toLowerCase()));
      return {
        ...pair,
        sent: withCredentials(sent, credentials),
        shown: maskedByName(withCredentials(shown, inRecord), names),
      };
    });
  }

  /** A credential that no header can carry is told as such, without showing it. */
  private refuseUnsendable({ place, name, value }: Credential): void {
    if (place === 'query') return;
    const problem = headerText(value, this.resolvers.real.forRecord);
    if (typeof problem === 'string') return;
    const { source } = this.template.line!;
    const message = problem.message.replace('The value of this header', `The credential for the header "${name}"`);
    fillFault(source, { ...problem, message, range: wholeOf(source) });
  }

  private signing(resolver: Resolvers['real']): Signing {
    const { context, endpoint } = this;
    return {
      resolver,
      withNames: (names) => resolversFor(context, endpoint, names).real,
      nowMs: context.runHost.nowMs(),
      randomBytes: (count) => context.runHost.randomness.bytes(count),
    };
  }

  /** Builds by the same code twice: with values, and for the record with masks. */
  private pair(make: (context: BuildContext) => BuiltRequest): Filled<Pair> {
    const { template: request, endpoint, context } = this;
    const {
      run: { userAgent },
    } = context;
    const host = new StepBodyHost(context);
    return catchFillFault(() => {
      const { real, masked, holdsSecret } = this.resolvers;
      const { request: sent, isOwn } = make({ request, endpoint, resolver: real, userAgent, host });
      const shown = holdsSecret() ? make({ request, endpoint, resolver: masked, userAgent, host }).request : sent;
      const { sent: keyed, ...rest } = this.keyed({ sent, shown, isOwn });
      return { ...rest, sent: this.coded(keyed) };
    });
  }

  /** The request as it goes out; the record has the body before it is compressed. */
  private coded(request: HttpRequest): HttpRequest {
    const made = withContentCoding(request, this.template.body?.key === 'file');
    if ('request' in made) return made.request;
    const { source } = this.template.line!;
    return fillFault(source, { code: 'invalid-value', range: wholeOf(source), ...made });
  }

  /** The pair with its idempotency key: the same for every try of the same request. */
  private keyed(pair: Pair): Pair {
    const { idempotencyKey } = this.template;
    if (idempotencyKey === undefined) return pair;
    const { real, masked } = this.resolvers;
    const made = idempotencyKey === true ? this.madeKey(pair.shown) : undefined;
    const withKey = (request: HttpRequest, resolver: Resolvers['real']): HttpRequest => {
      const key = made ?? fillText(idempotencyKey as Exclude<typeof idempotencyKey, true>, resolver);
      return { ...request, headers: [...request.headers, ['Idempotency-Key', key] as Header] };
    };
    const shown = withKey(pair.shown, masked);
    this.idempotencyKey = shown.headers.at(-1)![1];
    return { ...pair, sent: withKey(pair.sent, real), shown };
  }

  /** A UUID (RFC 9562 version 8) of the seed, the step, and what is sent, so that another request has another key. */
  private madeKey({ method, url, headers, body }: HttpRequest): string {
    const stable = headers.filter(([name]) => name.toLowerCase() !== 'user-agent');
    const content = typeof body === 'string' || body === undefined ? body : 'pieces' in body ? body.size : hexOf(body);
    const bytes = this.context.host.fixedBytes(JSON.stringify([method, url, stable, content ?? null]), 16);
    bytes[6] = (bytes[6]! & 0x0f) | 0x80;
    bytes[8] = (bytes[8]! & 0x3f) | 0x80;
    return hexOf(bytes).replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
  }
}

/** What says that a secret may go where a request takes it. */
function howToLet(mark: Mark, name: string, to: string): string {
  const isApi = !to.includes('://');
  if (mark.secret !== undefined)
    return `If it belongs there, declare it in batharon.yaml: secrets: {${name}: [${isApi ? to : 'API'}]}.`;
  if (!isApi) return 'If it belongs there, declare that server as an API of the project in batharon.yaml.';
  return `It belongs to ${mark.from}. If ${to} may have it, say so where it is marked: secret(..., '${to}').`;
}

/** Cookies of the jar as they are sent, and for the record. */
export type CookiePair = Readonly<{ sent: string; shown: string }>;

const NO_NAMES: ReadonlySet<string> = new Set();

function hexOf(bytes: Uint8Array): string {
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
}

/** The credential of a call: its own, none, or that of the api. */
export function authOf({ auth }: RequestTemplate, endpoint: Endpoint | undefined): Auth | undefined {
  return auth === 'none' ? undefined : (auth ?? endpoint?.auth);
}
