import type { CallStep, EachStep } from '../chain/model.ts';
import { listKeptOf } from '../chain/streamable-lists.ts';
import { isDone, type CallEnd } from '../journal/call-end.ts';
import { onceOf } from '../once.ts';
import { assertionFingerprint, requestText } from './call/fingerprint.ts';
import type { StepFrame } from './frame.ts';
import type { ItemAt } from './item-identity.ts';
import { added, NO_TOTALS, type StepsOutcome, type Totals } from './outcome.ts';
import { failedStep } from './steps/loop-parts.ts';

/** Calls of a loop of which nothing is left but their record: nothing is gathered, written or taken back of them. */
const callsAlone = onceOf(({ steps, gather }: EachStep): readonly CallStep[] => {
  const calls = steps.filter((step): step is CallStep => step.kind === 'call');
  return gather.length === 0 && calls.length === steps.length && calls.every(leavesNothing) ? calls : [];
});

function leavesNothing(step: CallStep): boolean {
  return !step.when && !step.undo && !step.save && step.onStatus.length === 0 && !listKeptOf(step);
}

/** Items that are told of in one event at most. */
const TOLD = 1000;

/**
 * What became of the items of a loop in the run that is gone on with. Those that were done whole are taken by their ends
 * alone where the files are those of the record and no value around the loop is another one, once one of them was gone over
 * whole and nothing of it came out otherwise.
 */
export class ItemsBefore {
  private readonly calls: readonly CallStep[];
  private readonly ends = new Set<CallEnd>();
  private isProven = false;
  private count = 0;

  constructor(
    private readonly step: EachStep,
    private readonly context: StepFrame,
  ) {
    this.calls = mayKeep(context) ? callsAlone(step) : [];
  }

  /** What an item added up to, by what its keys begin with; nothing where it has to be gone over. */
  totals(prefix: string): StepsOutcome | undefined {
    if (!this.isProven || this.calls.length === 0) return this.tell();
    let totals: Totals = NO_TOTALS;
    for (const call of this.calls) {
      const end = this.context.recorded!.records.endOf(prefix + call.name);
      if (!end || !this.isKept(call, end)) return this.tell();
      totals = added(totals, { exit: 0, calls: 1, expects: end.expects, passed: end.passed });
    }
    if (++this.count === TOLD) this.tell();
    return totals;
  }

  /** An item was gone over: the first that was done before shows whether the others may be taken. */
  wentOver({ redone }: StepFrame, { exit }: StepsOutcome): void {
    if (exit === 0 && redone.isAsRecorded) this.isProven = true;
  }

  /** Records the items that were taken since it was last said. */
  tell(): undefined {
    const { count: items } = this;
    this.count = 0;
    if (items > 0) this.context.run.recorder.recordSoon({ type: 'kept', step: this.context.address, items });
  }

  /** One that failed stays failed, unless the failed ones are tried again. */
  failed(item: ItemAt, { keyPrefix }: StepFrame): StepsOutcome | undefined {
    const { recorded, failed } = this.context;
    if (!recorded?.isSameRun || recorded.failed || this.step.onFailure !== 'continue') return undefined;
    const [ended] = recorded.records.failedIn(keyPrefix);
    if (!ended) return undefined;
    failed.push(failedStep(ended, item));
    return { ...NO_TOTALS, exit: 1 };
  }

  private isKept(call: CallStep, end: CallEnd): boolean {
    if (this.ends.has(end)) return true;
    const { context } = this;
    const endpoint = context.endpointOf(context.chain, call);
    const isSame =
      isDone(end) &&
      end.isSent &&
      end.isWhole &&
      end.requestText === requestText(call, endpoint, context.runHost) &&
      end.assertionFingerprint === assertionFingerprint(call, endpoint, context.runHost);
    if (isSame) this.ends.add(end);
    return isSame;
  }
}

function mayKeep({ recorded, redone, cleanupOnly, run }: StepFrame): boolean {
  const isSame = recorded?.mode === 'go-on' && recorded.isSameRun && recorded.isUnchanged;
  return isSame === true && !recorded.records.hasLost && redone.isAsRecorded && !cleanupOnly && !run.settings.goal;
}
