import { createHash, randomInt } from 'node:crypto';
import type { Clock } from '../../core/ports.ts';
import { emptyHead } from '../../core/pacing/limiter-state.ts';
import {
  StoreFault,
  type Heard,
  type Limiter,
  type LimiterNow,
  type LimiterStore,
  type Planned,
  type SlotsTaken,
} from '../../core/pacing/limiter-store.ts';
import { sizeOf } from '../../core/pacing/locked-limiters.ts';
import { keptLength, periodAt, type Quota, type Resets } from '../../core/pacing/rate-limit.ts';
import type { Hold } from '../../core/pacing/schedule.ts';
import { GIVE_BACK, HEAR, HOLD, LOOK, OPEN, SENT, TAKE } from './limiter-scripts.ts';
import { RedisConnection, type Session } from './redis-connection.ts';

const SCRIPTS = { take: TAKE, hold: HOLD, sent: SENT, giveBack: GIVE_BACK, hear: HEAR, look: LOOK, open: OPEN };
type Script = keyof typeof SCRIPTS;

/** What is counted by the month is of use for so long. */
const QUOTA_MS = 32 * 24 * 3_600_000;
const LEAST_KEPT_MS = 60_000;

/** Rate limiters that all who name one Redis keep to. Their names are not told to it, but a hash of each. */
export class RedisLimiters implements LimiterStore {
  readonly isShared = true;
  private readonly connection: RedisConnection;
  /** The places among those in flight that slots have. */
  private readonly tokens = new Map<SlotsTaken, string>();
  /** Limiters as the scripts read them. */
  private readonly texts = new WeakMap<Limiter, Readonly<{ session: Session; text: string; until: number }>>();

  constructor(
    url: string,
    place: string,
    private readonly clock: Clock,
    private readonly names: readonly string[] = [],
  ) {
    this.connection = new RedisConnection(url, place);
  }

  has(): boolean {
    return true;
  }

  async take(limiters: readonly Limiter[]): Promise<Planned> {
    const token = String(randomInt(1, 2 ** 47));
    const { owner, answer } = await this.run('take', limiters, (session) => {
      this.refuseForgetful(limiters, session);
      return [token];
    });
    const [what, ...rest] = answer as [string, ...number[]];
    if (what === 'lost') return this.anew();
    const [first = 0, ...numbers] = rest;
    if (what === 'spent') {
      const { text } = limiters[first - 1]!.rules.rateLimit.quotas[numbers[0]! - 1]!;
      return { spent: text, until: this.clock.nowMs() + numbers[1]! };
    }
    if (what === 'full') return { full: `total-concurrency ${limiters[first - 1]!.totalConcurrency}` };
    const planned = { numbers, owner, isFree: first === 1 };
    if (limiters.some(({ totalConcurrency }) => totalConcurrency !== undefined)) this.tokens.set(planned, token);
    return planned;
  }

  /** This process stood still for so long that others went on without it. */
  private anew(): never {
    this.connection.renew();
    throw new StoreFault(`Redis at ${this.connection.place} took this process for gone`, true);
  }

  /** A quota that begins anew with each start of Redis is none. */
  private refuseForgetful(limiters: readonly Limiter[], { isDurable }: Session): void {
    const [quota] = limiters.flatMap(({ rules }) => rules.rateLimit.quotas);
    if (isDurable || !quota) return;
    const why = `keeps nothing on its disk, and the quota ${quota.text} would begin anew when it restarts`;
    throw new StoreFault(`Redis at ${this.connection.place} ${why}: set appendonly yes`, false);
  }

  async hold(limiters: readonly Limiter[], taken: SlotsTaken): Promise<Hold | 'lost' | undefined> {
    const { owner, answer } = await this.run('hold', limiters, () => [JSON.stringify(taken.numbers)]);
    const [what, which = 0, ms = 0, why = 0, about = 0] = answer as [string, ...number[]];
    if (owner !== taken.owner) return 'lost';
    if (what === 'lost') {
      this.connection.renew();
      return 'lost';
    }
    if (what === 'free') return undefined;
    const until = this.clock.nowMs() + ms;
    if (why === 3) {
      const { text } = limiters[which - 1]!.rules.rateLimit.windows[about - 1]!;
      return { until, why: 'rate-limit', detail: text };
    }
    return { until, why: 'server', detail: why === 1 ? 'the server asked for it' : `${about} left` };
  }

  sent(limiters: readonly Limiter[], { numbers }: SlotsTaken): void {
    this.run('sent', limiters, () => [JSON.stringify(numbers)]).catch(() => {});
  }

  ended(limiters: readonly Limiter[], taken: SlotsTaken): void {
    const token = this.tokens.get(taken);
    if (token === undefined) return;
    this.tokens.delete(taken);
    const places = limiters.filter(({ totalConcurrency }) => totalConcurrency !== undefined).map(inFlightKey);
    // Whoever took a place has it, though this process may be known by another number since.
    const give = ({ client }: Session) => Promise.all(places.map((key) => client.zrem(key, `${taken.owner}:${token}`)));
    this.connection.ask(give).catch(() => {});
  }

  async giveBack(limiters: readonly Limiter[], { numbers }: SlotsTaken): Promise<void> {
    await this.run('giveBack', limiters, () => [JSON.stringify(numbers)]).catch(() => {});
  }

  async hear(limiter: Limiter, { closes, left, maxWaitMs, slot, underWay, inUse }: Heard): Promise<void> {
    const before = slot === undefined ? Math.max(0, inUse - 1) : underWay.filter((each) => each < slot).length;
    const heard = {
      ...(closes ? { closes: Math.ceil(closes.ms), status: closes.status } : {}),
      ...(slot === undefined ? {} : { slot }),
      ...(underWay.length > 0 ? { first: Math.min(...underWay) } : {}),
      others: before,
      left: left.map(({ remaining, resetMs }) => [remaining, Math.ceil(Math.min(resetMs, maxWaitMs))]),
    };
    await this.run('hear', [limiter], () => [JSON.stringify(heard)]).catch(() => {});
  }

  async present(): Promise<ReadonlyMap<string, LimiterNow>> {
    const states = await Promise.all(
      this.names.map(async (name) => {
        const { answer } = await this.run('look', [{ name, rules: NO_RULES }], () => []);
        return [name, this.stateOf(answer as Looked)] as const;
      }),
    );
    return new Map(states.filter(([, { head }]) => head.taken > 0 || head.closedUntil > 0));
  }

  private stateOf([now, fields, waiting, inFlight]: Looked): LimiterNow {
    // Instants by the clock of Redis are told by that of this process.
    const beside = this.clock.nowMs() - now;
    const of: Record<string, number> = {};
    for (let i = 0; i < fields.length; i += 2) of[fields[i]!] = Number(fields[i + 1]);
    const { taken = 0, closed = 0, closedAt = 0, closedStatus = 0, closedFor = 0, heard = -1 } = of;
    const quotas = Object.fromEntries(
      (['day', 'month'] as const).flatMap((period) => {
        const [from, used] = [of[`${period}From`], of[`${period}Used`]];
        return from === undefined || used === undefined ? [] : [[period, { from, used }]];
      }),
    );
    const field = closedStatus === 0 ? '' : `Retry-After: ${Math.ceil(closedFor / 1000)}`;
    return {
      head: {
        ...emptyHead(),
        taken,
        heardBy: heard,
        quotas,
        closedUntil: closed === 0 ? 0 : closed + beside,
        closedBy: closed === 0 ? undefined : { status: closedStatus, field, at: closedAt + beside, run: '' },
      },
      waiting: counted(waiting),
      inFlight: counted(inFlight.map((each) => each.split(':')[0]!)),
    };
  }

  async open(name: string): Promise<void> {
    await this.run('open', [{ name, rules: NO_RULES }], () => []);
  }

  close(): void {
    this.connection.close();
  }

  /** Runs a script on some limiters, by its digest where Redis knows it. */
  private run(
    script: Script,
    limiters: readonly Limiter[],
    more: (session: Session) => readonly string[],
  ): Promise<Readonly<{ owner: number; answer: unknown }>> {
    return this.connection.ask(async (session) => {
      const { client, owner } = session;
      const described = limiters.map((each) => this.described(each, session)).join(',');
      const args = [`[${described}]`, String(owner), ...more(session)];
      const keys = keysOf(limiters);
      const { text, digest } = scripts[script];
      try {
        return { owner, answer: await client.evalsha(digest, keys.length, ...keys, ...args) };
      } catch (error) {
        if (!(error as Error).message.startsWith('NOSCRIPT')) throw error;
        return { owner, answer: await client.eval(text, keys.length, ...keys, ...args) };
      }
    });
  }

  /** A limiter as the scripts read it: the same until a period of its quotas ends. */
  private described(limiter: Limiter, session: Session): string {
    const now = session.nowMs();
    const known = this.texts.get(limiter);
    if (known && known.session === session && now < known.until) return known.text;
    const { rules, totalConcurrency = 0 } = limiter;
    const { slots, windowMs } = sizeOf(limiter);
    const { windows, quotas } = rules.rateLimit;
    const periods = quotas.map(({ period }) => beginningsAround(now, period, rules.resets));
    const text = JSON.stringify({
      slots,
      windows: windows.map((window) => [window.count, Math.ceil(keptLength(window))]),
      quotas: quotas.map(({ period, count }, i) => [period, count, ...periods[i]!]),
      total: totalConcurrency,
      keepMs: quotas.length > 0 ? QUOTA_MS : Math.max(LEAST_KEPT_MS, 2 * windowMs),
      since: session.isDurable || windows.length === 0 ? 0 : Math.ceil(session.startedAt + windowMs + 1000),
    });
    this.texts.set(limiter, { session, text, until: Math.min(...periods.map(([, , until]) => until!), Infinity) });
    return text;
  }
}

/** When the period before the present one began, the present one, and the two behind it. */
function beginningsAround(now: number, period: Quota['period'], resets: Resets): readonly number[] {
  const present = periodAt(now, period, resets);
  const [before, next] = [present.from - 1, present.until].map((at) => periodAt(at, period, resets));
  return [before!.from, present.from, present.until, next!.until];
}

type Looked = [now: number, fields: string[], waiting: string[], inFlight: string[]];

const NO_RULES = { rateLimit: { windows: [], quotas: [] }, resets: { hour: 0, minute: 0, zone: 'UTC' } };

const scripts = Object.fromEntries(
  Object.entries(SCRIPTS).map(([name, text]) => [
    name,
    { text, digest: createHash('sha1').update(text).digest('hex') },
  ]),
) as Readonly<Record<Script, Readonly<{ text: string; digest: string }>>>;

/** Of each limiter its head and its slots; behind those the places in flight. */
function keysOf(limiters: readonly Limiter[]): string[] {
  return [
    ...limiters.flatMap((limiter) => [`${keyOf(limiter)}:head`, `${keyOf(limiter)}:slots`]),
    ...limiters.map(inFlightKey),
  ];
}

const keyOf = ({ name }: Limiter): string =>
  `{batharon}:limiter:${createHash('sha256').update(name).digest('hex').slice(0, 24)}`;
const inFlightKey = (limiter: Limiter): string => `${keyOf(limiter)}:in-flight`;

function counted(names: readonly string[]): ReadonlyMap<string, number> {
  const counts = new Map<string, number>();
  for (const name of names) counts.set(name, (counts.get(name) ?? 0) + 1);
  return counts;
}
