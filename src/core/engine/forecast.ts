import { freshForOf } from './fresh-for.ts';
import type { CallStep, Chain, EachStep, RepeatStep, Step } from '../chain/model.ts';
import { stepKey } from '../chain/step-key.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { RunProfile } from '../journal/profile.ts';
import { emptyHead } from '../pacing/limiter-state.ts';
import { quotasAt } from '../pacing/schedule.ts';
import { takeSlots, type RateLimiter } from '../pacing/rate-limiter.ts';
import type { VirtualClock } from '../pacing/virtual-clock.ts';
import { Duration, isList, SpilledList } from '../value/value.ts';
import { RequestBuilder } from './call/build.ts';
import { requestFingerprint } from './call/fingerprint.ts';
import { limitersFor } from './call/gate.ts';
import { plainFrame } from './frames.ts';
import type { StepFrame } from './frame.ts';
import { pauseMs } from './pause.ts';

/** What a run is going to cost, by the same rate limiters that would hold it. */
export type Forecast = Readonly<{
  calls: readonly ForecastCall[];
  requests: number;
  /** Milliseconds, those in which a rate limit or a spent quota is waited for too. */
  ms: number;
  quotas: readonly Readonly<{
    limiter: string;
    text: string;
    count: number;
    used: number;
    spentAfter: number | undefined;
  }>[];
  /** What had to be guessed. */
  guesses: readonly string[];
}>;

type ForecastCall = Readonly<{ name: string; times: number; requests: number }>;

type ForecastOptions = Readonly<{
  context: StepFrame;
  clock: VirtualClock;
  profile: RunProfile | undefined;
  /** Sizes of lists that were said, by name. */
  assumed: ReadonlyMap<string, number>;
}>;

/** A request of which nothing is known takes so many milliseconds. */
const UNKNOWN_MS = 150;

/** Runs a chain on a clock that is moved, without sending: every request takes its slot, and the time that it took before. */
export async function forecastChain(options: ForecastOptions): Promise<Forecast> {
  const { context, clock } = options;
  const simulation = new Simulation(options);
  const started = clock.monotonicMs();
  await clock.run(simulation.chain(context.chain, context));
  const { calls, guesses } = simulation;
  const named = [...calls].map(([name, { times, requests }]) => ({ name, times, requests: Math.round(requests) }));
  const requests = named.reduce((sum, each) => sum + each.requests, 0);
  const ms = clock.monotonicMs() - started;
  return { calls: named, requests, ms, quotas: await simulation.quotas(), guesses: [...guesses] };
}

class Simulation {
  readonly calls = new Map<string, { times: number; requests: number }>();
  readonly guesses = new Set<string>();
  private sent = 0;
  private readonly spentAfter = new Map<string, number>();

  constructor(private readonly options: ForecastOptions) {}

  async chain({ steps, cleanup }: Chain, context: StepFrame): Promise<void> {
    await this.steps(steps, context);
    await this.steps(cleanup, context);
  }

  async quotas(): Promise<Forecast['quotas']> {
    const {
      run: { limiters },
    } = this.options.context;
    const present = await limiters.store.present();
    return limiters.all().flatMap(({ name, rules }) =>
      quotasAt(present.get(name)?.head ?? emptyHead(), rules, this.options.clock.nowMs()).map(
        ({ text, count, used }) => {
          return {
            limiter: name.replace(/@$/, ''),
            text,
            count,
            used,
            spentAfter: this.spentAfter.get(`${name} ${text}`),
          };
        },
      ),
    );
  }

  private async steps(steps: readonly Step[], context: StepFrame): Promise<void> {
    for (const step of steps) await this.step(step, context);
  }

  private async step(step: Step, context: StepFrame): Promise<void> {
    switch (step.kind) {
      case 'call':
        return this.call(step, context);
      case 'each':
        return this.each(step, context);
      case 'repeat':
        return this.repeat(step, context);
      case 'parallel':
        return void (await Promise.all(step.steps.map((each) => this.step(each, context))));
      case 'if':
        if (step.otherwise.length > 0) this.guesses.add(`if ${step.condition.source.text.trim()}: assumed to be true`);
        return this.steps(step.steps, context);
      case 'chain': {
        const used = context.run.chainAt(step.file);
        if (!used) return;
        const inner = { ...context, chain: used, keyPrefix: prefixOf(step, context) };
        return this.chain(used, inner);
      }
      case 'wait': {
        const pause = 'for' in step ? evaluate(step.for.tree!, plainFrame(context)).value : undefined;
        if (pause instanceof Duration) await this.options.clock.sleep(pause.milliseconds, context.run.stopping);
        return;
      }
      default:
    }
  }

  private async each(step: EachStep, context: StepFrame): Promise<void> {
    const keyPrefix = prefixOf(step, context);
    const size = this.sizeOf(step, keyPrefix.slice(0, -1), context);
    let next = 0;
    const worker = async (): Promise<void> => {
      while (next++ < size) await this.steps(step.steps, { ...context, keyPrefix });
    };
    await Promise.all(Array.from({ length: Math.min(step.concurrency, size) }, worker));
  }

  /** As it was said, as the inputs say, as it was the last time; else one. */
  private sizeOf({ list, name }: EachStep, key: string, context: StepFrame): number {
    const { assumed, profile } = this.options;
    const text = list.source.text.trim();
    const said = assumed.get(text) ?? assumed.get(name);
    if (said !== undefined) return said;
    const known = evaluate(list.tree!, plainFrame(context)).value;
    const part =
      context.run.settings.part && !context.keyPrefix.includes('each:')
        ? Object.values(context.run.settings.part)[0]!
        : Infinity;
    if (isList(known) || known instanceof SpilledList) return Math.min(part, known.length);
    const before = profile?.size(key);
    if (before !== undefined) return Math.min(part, before);
    this.guesses.add(
      `${text}: its size is not known and assumed to be 1; set it with --assume ${text.replace(/\W.*/s, '')}=200`,
    );
    return 1;
  }

  private async repeat(step: RepeatStep, context: StepFrame): Promise<void> {
    const keyPrefix = prefixOf(step, context);
    const rounds = this.options.profile?.size(keyPrefix.slice(0, -1));
    if (rounds === undefined) this.guesses.add(`${step.name}: one round assumed; the number of rounds is not known`);
    for (let round = 1; round <= (rounds ?? 1); round++) {
      await this.steps(step.steps, { ...context, keyPrefix });
      const isLast = round === (rounds ?? 1);
      if (step.every && !isLast)
        await this.options.clock.sleep(pauseMs(step.every, round, context.host), context.run.stopping);
    }
  }

  private async call(step: CallStep, context: StepFrame): Promise<void> {
    const { clock, profile } = this.options;
    const endpoint = context.endpointOf(context.chain, step);
    const known = profile?.call(context.keyPrefix + step.name);
    const requests = this.isFresh(step, endpoint, context) ? 0 : (known?.requests ?? this.guessed(step));
    const before = this.calls.get(step.name) ?? { times: 0, requests: 0 };
    // Averages are no whole numbers: what is left over is sent with a later call of the same name.
    const owed = Math.round(before.requests + requests) - Math.round(before.requests);
    this.calls.set(step.name, { times: before.times + 1, requests: before.requests + requests });
    for (let attempt = 1; attempt <= owed; attempt++) {
      await this.request(step, endpoint, known ? known.ms / Math.max(1, requests) : UNKNOWN_MS, context);
      if (step.poll && attempt < owed)
        await clock.sleep(pauseMs(step.poll.every, attempt, context.host), context.run.stopping);
    }
  }

  /** One request of a call that nobody has recorded. */
  private guessed({ name, paging, poll }: CallStep): number {
    const many = paging ? 'pages' : poll ? 'polls' : undefined;
    if (many !== undefined) this.guesses.add(`${name}: one request assumed; the number of ${many} is not known`);
    return 1;
  }

  /** Whether a recorded response to the same request is fresh enough, as far as that request is known. */
  private isFresh(step: CallStep, endpoint: Endpoint | undefined, context: StepFrame): boolean {
    const { fresh } = context.run;
    const freshForMs = freshForOf(step, endpoint, context.run.clock.nowMs());
    if (!fresh || freshForMs === undefined) return false;
    const first = new RequestBuilder(step.request, endpoint, context).first();
    if (!('problem' in first))
      return fresh(requestFingerprint(first.value.shown, { step, endpoint, context }), freshForMs) !== undefined;
    this.guesses.add(`${step.name}: sent, and not read from the records; its request is not known yet`);
    return false;
  }

  private async request(step: CallStep, endpoint: Endpoint | undefined, ms: number, context: StepFrame): Promise<void> {
    const { clock } = this.options;
    const limiters = limitersFor(endpoint, endpoint !== undefined, 'http://elsewhere.invalid', step, context);
    const { semaphore } = limiters[0]!;
    await semaphore.take(context.run.stopping);
    await this.slot(limiters, context);
    this.sent++;
    await clock.sleep(ms, context.run.stopping);
    semaphore.give();
  }

  private async slot(limiters: readonly RateLimiter[], context: StepFrame): Promise<void> {
    const { clock } = this.options;
    for (;;) {
      const { store } = context.run.limiters;
      const signal = context.run.stopping;
      const taken = await takeSlots(limiters, { store, clock, signal, longestMs: Infinity, told: () => {} });
      if ('slots' in taken) {
        taken.slots.sent();
        taken.slots.ended();
        return;
      }
      if ('stopped' in taken || 'unreachable' in taken) return;
      const key = `${limiters[0]!.options.name} ${taken.spent}`;
      if (!this.spentAfter.has(key)) this.spentAfter.set(key, this.sent);
      await clock.sleep(Math.max(1, taken.until - clock.nowMs()), context.run.stopping);
    }
  }
}

/** What stands before the keys of the steps inside a step. */
function prefixOf(step: Step, { keyPrefix, chain }: StepFrame): string {
  return `${keyPrefix}${stepKey(chain, step)}/`;
}
