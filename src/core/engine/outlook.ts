import type { CallStep, Chain, Step } from '../chain/model.ts';
import type { Part } from '../chain/parts.ts';
import { partsOf } from '../chain/steps/inside.ts';
import { stepKey } from '../chain/step-key.ts';
import type { Source } from '../diagnostics/source.ts';
import type { EndpointOf } from '../chain/endpoints.ts';
import { isDone, type CallEnd, type CallRecords } from '../journal/call-records.ts';
import { assertionFingerprint } from './call/fingerprint.ts';
import type { RunHost } from './host.ts';

/** How many calls there are of a sort, and the address or the name of the first. */
export type Tally = Readonly<{ count: number; first: string | undefined }>;

/**
 * What going on with a run will do, as the record and the files tell it before anything is evaluated: a request that has
 * become another one, and what is read again behind it, show only on the way.
 */
export type Outlook = Readonly<{
  done: Tally;
  judgedAgain: Tally;
  toSend: Tally;
  /** Whether there may be more to send: loops whose lists are not known yet. */
  isAtLeast: boolean;
}>;

export type OutlookOptions = Readonly<{
  chain: Chain;
  chainAt(file: Source): Chain | undefined;
  endpointOf: EndpointOf;
  host: RunHost;
  records: CallRecords;
  /** Whether items that failed are tried again. */
  failed: boolean;
}>;

export function outlookOf(options: OutlookOptions): Outlook {
  const counting = new Counting(options);
  counting.steps(options.chain, options.chain.steps, '', 1);
  const { done, judgedAgain, toSend, isAtLeast } = counting;
  return { done, judgedAgain, toSend, isAtLeast };
}

/** `each:vessel/ask` of `each:vessel{9f3c}/ask`: the same for every item and round. */
const withoutItems = (key: string): string => key.replace(/\{[^{}]*\}\//g, '/');

class Counting {
  readonly done = { count: 0, first: undefined as string | undefined };
  readonly judgedAgain = { count: 0, first: undefined as string | undefined };
  readonly toSend = { count: 0, first: undefined as string | undefined };
  isAtLeast = false;
  private readonly ends = new Map<string, Map<CallEnd, Tally>>();
  /** Items of loops, all their openings together. */
  private readonly totals = new Map<string, number>();

  constructor(private readonly options: OutlookOptions) {
    const { records } = options;
    for (const { key, end, address } of records.all()) this.put(withoutItems(key), end, address);
    for (const [key, total] of records.totals) {
      const loop = withoutItems(key);
      this.totals.set(loop, Math.max(this.totals.get(loop) ?? 0, total));
    }
  }

  private put(key: string, end: CallEnd, address: () => string): void {
    let ends = this.ends.get(key);
    if (!ends) this.ends.set(key, (ends = new Map<CallEnd, Tally>()));
    const { count = 0, first = address() } = ends.get(end) ?? {};
    ends.set(end, { count: count + 1, first });
  }

  /** `times`: how often the steps are done, where that is known. */
  steps(chain: Chain, steps: readonly Step[], prefix: string, times: number | undefined): void {
    for (const step of steps) {
      if (step.kind === 'call') this.call(chain, step, prefix + step.name, step.when ? undefined : times);
      else this.parts(chain, partsOf(step), { key: prefix + stepKey(chain, step), prefix, step, times });
    }
  }

  private parts(
    chain: Chain,
    parts: readonly Part[],
    at: Readonly<{ key: string; prefix: string; step: Step; times: number | undefined }>,
  ): void {
    const { key, prefix, step, times } = at;
    for (const part of parts) {
      if (part.sort === 'steps') this.steps(chain, part.steps, prefix, times);
      else if (part.sort === 'arms') for (const arm of part.arms) this.steps(chain, arm, prefix, undefined);
      else if (part.sort === 'scope') {
        const total = part.of === 'item' && times === 1 && !step.when ? this.totals.get(key) : undefined;
        this.parts(chain, part.parts, { ...at, prefix: `${key}/`, times: total });
      } else if (part.sort === 'file' && part.of === 'chain') {
        const used = this.options.chainAt(part.source);
        if (used) this.steps(used, used.steps, `${key}/`, times);
      }
    }
  }

  private call(chain: Chain, step: CallStep, key: string, times: number | undefined): void {
    const endpoint = this.options.endpointOf(chain, step);
    const ends = this.ends.get(key) ?? new Map<CallEnd, Tally>();
    let ended = 0;
    for (const [each, tally] of ends) {
      const isJudgedAgain =
        each.assertionFingerprint !== undefined &&
        each.assertionFingerprint !== assertionFingerprint(step, endpoint, this.options.host);
      const isLeft = each.outcome === 'skipped' || (each.outcome === 'failed' && !this.options.failed && each.isOfItem);
      if (isJudgedAgain && each.isSent) count(this.judgedAgain, tally);
      else if (isDone(each)) count(this.done, tally);
      else if (!isLeft) count(this.toSend, tally);
      ended += tally.count;
    }
    if (times === undefined) this.isAtLeast ||= true;
    const open = Math.max(0, (times ?? 0) - ended);
    if (open > 0) this.toSend.first ??= step.name;
    this.toSend.count += open;
  }
}

function count(tally: { count: number; first: string | undefined }, { count: more, first }: Tally): void {
  tally.count += more;
  tally.first ??= first;
}
