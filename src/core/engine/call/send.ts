import type { ProblemRecord } from '../../journal/records.ts';
import { changesSomething } from '../../chain/changes.ts';
import type { Authenticator, AuthProblem } from '../../http/auth/definition.ts';
import { DEFAULT_TIMEOUTS, type HttpRequest } from '../../http/message.ts';
import { redirectOf } from '../../http/redirect.ts';
import { decodeBody } from '../../http/decode.ts';
import type { ConnectionOptions } from '../../http/message.ts';
import type { ExchangeOptions } from '../../ports.ts';
import { catchFillFault, catchFillFaultDuring } from '../fill.ts';
import type { Resolvers } from '../resolvers.ts';
import { askedInWords, askedToWait } from './asked-to-wait.ts';
import { authOf, RequestBuilder, type Pair } from './build.ts';
import { connectionOf } from './connection.ts';
import { cookiesFor } from './cookies.ts';
import { problemOf } from './problems.ts';
import { authHost, exitOf, isRenewed, type Signer } from './auth-host.ts';
import { exercised } from './exercised.ts';
import { requestFingerprint } from './fingerprint.ts';
import { placeholdersOf } from './placeholders.ts';
import { answeredEvent, brokenEvent, digestOf, purposeOf, recordSent, type Purpose } from './record.ts';
import { admit, limitersFor, type Entered } from './gate.ts';
import { stopsAtRedirect } from './redirects.ts';
import type { Answered, Requests, Round, Sent } from './sent.ts';
import type { CallSite } from './site.ts';
import { RetryState } from './retry-state.ts';
import type { CallSink } from './sink.ts';
import type { Decision } from '../../pacing/retry.ts';
import { present } from '../../value/present.ts';

/** A try behind which there may be another. */
type Retried = Answered | Extract<Sent, { broken: object }>;

/** A request that may go out, and why one does not. */
type Ready = Readonly<{ pair: Pair; connection: ConnectionOptions }>;
type Unready = Readonly<{ problem: ProblemRecord; exit: number }>;

const startsOver = (sink: CallSink | undefined, { response }: Answered) => sink?.startsOver(response) === true;

function isFull(sent: Sent): boolean {
  return 'response' in sent && sent.response.status === 429;
}

/** Sends the requests of one call: each hop with its credential and cookies, and once more after a 401 with a new one. */
export class Sender implements Requests {
  private readonly builder: RequestBuilder;
  private readonly numbers: number[] = [];
  /** Digest of a body that is read while it is sent: another one later means that the file was changed. */
  private digest: string | undefined;
  private round: Round = {};
  private readonly tries: RetryState;
  private tryNumber = 1;

  constructor(
    private readonly site: CallSite,
    private readonly sink: CallSink | undefined,
  ) {
    const { step, endpoint, context } = site;
    this.builder = new RequestBuilder(step.request, endpoint, context);
    this.tries = new RetryState(site);
  }

  private get signer(): Signer {
    const { endpoint, context } = this.site;
    return { endpoint, context, resolvers: this.resolvers };
  }

  get resolvers(): Resolvers {
    return this.builder.resolvers;
  }

  /**
   * Sends, and again where it failed and may be sent again; each exchange is one of its own in the record. What cannot be
   * filled on the way, as in a credential, is a problem of the call.
   */
  async send(round: Round = {}): Promise<Sent> {
    const sent = await catchFillFaultDuring(() => this.sent(round));
    return 'value' in sent ? sent.value : { numbers: this.numbers, problem: sent.problem, exit: 1 };
  }

  private async sent(round: Round): Promise<Sent> {
    this.round = round;
    const { numbers, tries, site } = this;
    const { host, run } = site.context;
    const from = run.clock.monotonicMs();
    if ((round.page ?? round.attempt ?? 1) > 1) host.beginAgain();
    const first = this.builder.first(round.next);
    if ('problem' in first) return { numbers, problem: first.problem, exit: 1 };
    site.sent.fingerprint ??= requestFingerprint(first.value.shown, site);
    const declined = await this.declined(first.value);
    if (declined) return { numbers, declined };
    for (;;) {
      this.tryNumber = ++tries.count;
      const sent = await this.follow(first.value);
      const decision = tries.decide(sent);
      const goesOn = 'again' in decision || (decision.not === 'so-long' && isFull(sent));
      if (!goesOn) {
        const tookMs = run.clock.monotonicMs() - from;
        return { tries: tries.count, tried: tries.reasons, notAgain: decision, tookMs, ...sent };
      }
      const mayGoOn = await this.waitToRetry(sent as Retried, decision);
      if (!mayGoOn) return { numbers, declined: 'pause' };
    }
  }

  /** Records what came of a try, and waits for the next; false where the run is to stop first. */
  private async waitToRetry(sent: Retried, decision: Decision): Promise<boolean> {
    const { address, run } = this.site.context;
    if ('response' in sent) this.recordAnswer(sent);
    else run.recorder.record(brokenEvent(sent.x, sent.broken));
    if (!('again' in decision)) {
      // Its quota is spent, as the server says: the run can go on later.
      const until = run.clock.nowMs() + (decision as { retryAfterMs: number }).retryAfterMs;
      run.pausing.begin({ why: 'quota', step: address, until, detail: 'the server answered 429' });
      return false;
    }
    run.recorder.record({ type: 'again', x: sent.x, why: decision.why, after: Math.round(decision.again) });
    const until = run.clock.nowMs() + decision.again;
    const detail = ('response' in sent ? askedInWords(sent.response) : undefined) ?? decision.why;
    const wait = run.waits.begin('retry', address, { detail, until });
    if (decision.again > 0) await run.clock.sleep(decision.again, run.stopping);
    run.recorder.record(...wait.end());
    return !run.stopping.aborted;
  }

  /** One try: the request, and where redirects lead. */
  private async follow(first: Pair): Promise<Sent> {
    const { numbers } = this;
    const { step, endpoint } = this.site;
    const visited: HttpRequest[] = [];
    let pair = first;
    for (let hop = 0; ; hop++) {
      visited.push(pair.sent);
      const sent = await this.hop(pair, hop);
      if (!('response' in sent)) return sent;
      const redirect = stopsAtRedirect(step, endpoint) ? undefined : redirectOf(pair.sent, sent.response, visited);
      if (!redirect) return sent;
      if ('code' in redirect) return { ...sent, refused: redirect };
      this.recordAnswer(sent);
      const outcome = this.builder.redirected(redirect);
      if ('problem' in outcome) return { numbers, problem: outcome.problem, exit: 1 };
      this.noteDropped(redirect.url);
      pair = outcome.value;
    }
  }

  private noteDropped(url: string): void {
    const { dropped } = this.builder;
    if (dropped.length === 0) return;
    const { address, run } = this.site.context;
    const message = `${dropped.join(' and ')} ${dropped.length === 1 ? 'was' : 'were'} not sent on to ${new URL(url).origin}, to which the server led`;
    run.recorder.record({ type: 'note', code: 'secret-dropped', level: 'warning', message, step: address });
  }

  /** Asks before a change, where the run was told to. */
  private async declined({ shown }: Pair): Promise<'skip' | 'stop' | undefined> {
    const { step, context } = this.site;
    const { ask, unasked, waits, recorder } = context.run;
    if (!ask || unasked.has(step.name) || !changesSomething(step)) return undefined;
    const waiting = waits.begin('ask', context.address);
    const answer = await ask(step.name, shown);
    recorder.record(...waiting.end());
    if (answer === 'all') unasked.add(step.name);
    return answer === 'skip' || answer === 'stop' ? answer : undefined;
  }

  /** One hop; a 401 is answered once with a new credential, where there is one to be had. */
  private async hop(pair: Pair, hop: number): Promise<Sent> {
    const { step, endpoint, context } = this.site;
    const auth = pair.isOwn ? authOf(step.request, endpoint) : undefined;
    const authenticator = auth && context.sessions.authenticatorOf(auth, this.resolvers.real);
    let mayRenew = true;
    for (;;) {
      const entered = await this.entered(pair, authenticator);
      if (!('slots' in entered)) return entered;
      const generation = authenticator?.generation ?? 0;
      let sent: Sent;
      try {
        sent = await this.exchange(this.sink?.asking(pair) ?? pair, hop, authenticator, entered);
      } finally {
        entered.leave();
      }
      if (!('response' in sent)) return sent;
      if (!startsOver(this.sink, sent)) {
        if (!mayRenew || !isRenewed(authenticator, sent.response, generation)) return sent;
        mayRenew = false;
      }
      this.recordAnswer(sent);
    }
  }

  /** A credential that is ready, and a place to send at. */
  private async entered(pair: Pair, authenticator: Authenticator | undefined): Promise<Entered | Sent> {
    const { numbers } = this;
    const { step, endpoint, context } = this.site;
    const limiters = limitersFor(endpoint, pair.isOwn, pair.sent.url, step, context);
    for (;;) {
      const unready = authenticator?.ready && (await authenticator.ready(authHost(this.signer)));
      if (unready) return { numbers, ...this.notReady(unready) };
      const entered = await admit(limiters, context);
      if (!entered) return { numbers, declined: 'pause' };
      if (!authenticator?.isStale?.(context.run.clock)) return entered;
      // It waited so long that its credential has ended: another is fetched first, and nothing is held meanwhile.
      await entered.slots.drop();
      entered.leave();
    }
  }

  private async exchange(
    bare: Pair,
    hop: number,
    authenticator: Authenticator | undefined,
    { slots, hear }: Entered,
  ): Promise<Sent> {
    const { numbers } = this;
    const { endpoint, context } = this.site;
    const { run } = context;
    const ready = this.signed(bare, authenticator);
    if (!('pair' in ready)) {
      await slots.drop();
      return { numbers, ...ready };
    }
    const { pair, connection } = ready;
    const x = ++run.counters.exchanges;
    numbers.push(x);
    const flushed = recordSent(this.purposeOf(pair, hop), { x, hop, pair }, run.recorder);
    if (flushed) await flushed;
    const sending = run.waits.sending();
    const options = this.optionsFor(x, connection, slots.sent);
    const { response, broken } = await run.transport.exchange(pair.sent, options, run.signal);
    sending();
    slots.sent();
    if (broken) return { numbers, x, broken };
    const heard = hear(response);
    if (heard) await heard;
    if (context.round) context.round.retryAfterMs = askedToWait(response, run.clock) ?? 0;
    if (bare.isOwn) context.sessions.jarOf(endpoint!).store(response.headers, pair.sent.url);
    const whole = this.sink ? await this.sink.whole(response) : response;
    return { numbers, x, request: pair.sent, response: whole, isOwn: bare.isOwn };
  }

  /** The request with its credential and cookies, and its connection; or why it is not sent. */
  private signed(bare: Pair, authenticator: Authenticator | undefined): Ready | Unready {
    const { endpoint, context } = this.site;
    const signed = this.builder.signed(bare, authenticator, cookiesFor(bare, this.site));
    if ('problem' in signed) return { problem: signed.problem, exit: 1 };
    const connection = catchFillFault(() =>
      connectionOf(bare.isOwn ? endpoint : undefined, this.resolvers.real, context),
    );
    if ('problem' in connection) return { problem: connection.problem, exit: 2 };
    const changed = this.fileChanged(signed.value);
    return changed ? { problem: changed, exit: 1 } : { pair: signed.value, connection: connection.value };
  }

  private purposeOf(pair: Pair, hop: number): Purpose {
    const { step, endpoint, context, sent } = this.site;
    return {
      purpose: context.purpose,
      address: context.address,
      key: context.key,
      ...purposeOf(step, hop, pair.sent.method),
      api: endpoint?.api ?? '',
      operation: hop === 0 && pair.isOwn ? exercised(this.site, pair.sent) : undefined,
      idempotencyKey: this.builder.idempotencyKey,
      placeholders: hop === 0 ? placeholdersOf(step, context) : [],
      round: this.round,
      requestFingerprint: sent.fingerprint!,
      tryNumber: this.tryNumber,
    };
  }

  private optionsFor(x: number, connection: ConnectionOptions, onSending: () => void): ExchangeOptions {
    const { step, endpoint, context } = this.site;
    const { run } = context;
    const timeouts = step.timeouts ?? endpoint?.timeouts ?? DEFAULT_TIMEOUTS;
    run.recorder.tell({ type: 'limited', x, limitMs: Math.min(timeouts.response, timeouts.whole ?? Infinity) });
    const maxBodyBytes = step.maxBodyBytes ?? run.maxBodyBytes;
    return { timeouts, maxBodyBytes, connection, ...present({ sinkFor: this.sink?.sinkFor }), onSending };
  }

  /** A response that is not the last one of its call: recorded, and done with. */
  private recordAnswer({ x, response }: Answered): void {
    const { recorder } = this.site.context.run;
    recorder.record(answeredEvent(x, response, decodeBody(response), recorder));
  }

  private fileChanged({ sent: { body } }: Pair): ProblemRecord | undefined {
    if (body === undefined || typeof body === 'string' || body instanceof Uint8Array) return undefined;
    const digest = digestOf(body);
    const before = (this.digest ??= digest);
    if (before === digest) return undefined;
    return problemOf(this.site.step, 'file-changed', 'The file of this request changed between two attempts');
  }

  private notReady(problem: AuthProblem): Unready {
    const { code, message, advice } = problem;
    return { problem: problemOf(this.site.step, code, message, advice), exit: exitOf(problem) };
  }
}
