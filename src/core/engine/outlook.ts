import { insideOf, type CallStep, type Chain, type Step } from '../chain/model.ts';
import { stepKey } from '../chain/step-key.ts';
import type { Source } from '../diagnostics/source.ts';
import type { Endpoint } from '../http/endpoint.ts';
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
  endpointOf(api: string | undefined): Endpoint | undefined;
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
      else if (step.kind === 'each') {
        const total = this.totals.get(prefix + stepKey(chain, step));
        this.steps(
          chain,
          step.steps,
          `${prefix}${stepKey(chain, step)}/`,
          times === 1 && !step.when ? total : undefined,
        );
      } else if (step.kind === 'repeat') this.steps(chain, step.steps, `${prefix}${stepKey(chain, step)}/`, undefined);
      else if (step.kind === 'chain') {
        const used = this.options.chainAt(step.file);
        if (used) this.steps(used, used.steps, `${prefix}${stepKey(chain, step)}/`, times);
      } else {
        for (const inside of insideOf(step)) this.steps(chain, inside, prefix, step.kind === 'if' ? undefined : times);
      }
    }
  }

  private call(chain: Chain, step: CallStep, key: string, times: number | undefined): void {
    const endpoint = this.options.endpointOf(step.api?.text ?? chain.api?.text);
    const ends = this.ends.get(key) ?? new Map<CallEnd, Tally>();
    let ended = 0;
    for (const [each, tally] of ends) {
      const isJudgedAgain =
        each.assertionFingerprint !== undefined &&
        each.assertionFingerprint !== assertionFingerprint(step, endpoint, { runHost: this.options.host });
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
