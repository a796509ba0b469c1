import type { ProblemRecord } from '../../journal/records.ts';
import { reject } from './loop-parts.ts';
import { FewMap } from '../../few-map.ts';
import { streamableLists } from '../../chain/streamable-lists.ts';
import type { EachStep } from '../../chain/model.ts';
import { allSteps } from '../../chain/steps/inside.ts';
import { insideOfStep, itemAddress, stepNumber, type Address } from '../../journal/address.ts';
import { bindReal, type Evaluated } from '../bind.ts';
import { toStored } from '../../journal/stored.ts';
import { Mask, type Items, type Value } from '../../value/value.ts';
import { fillValue } from '../../template/fill.ts';
import { Callbacks } from '../callbacks.ts';
import { withReasons } from '../explain.ts';
import { plainFrame } from '../frames.ts';
import type { StepFrame } from '../frame.ts';
import { catchFillFault } from '../fill.ts';
import { failureGroups } from '../failure-groups.ts';
import { Gathered } from '../gathered.ts';
import { itemRecord } from './start.ts';
import type { Identities } from '../item-identity.ts';
import { ItemsBefore } from '../items-before.ts';
import { type ItemAt } from '../item-identity.ts';
import { itemsAt } from '../loop-items.ts';
import { placeOf } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { ReexecutionFlag } from '../reexecution-flag.ts';
import { isItemRefused } from '../refused.ts';
import { Scope } from '../scope.ts';
import { ownItems } from '../slices.ts';
import { SecretNames } from '../secret-names.ts';
import type { Problem } from '../../diagnostics/problem.ts';
import { wholeOf } from '../../diagnostics/source.ts';
import { secretIn, type Secrecy } from '../../expression/secrecy.ts';
import type { RowsFile } from '../../ports.ts';
import { secretInTemplate } from '../../template/secrecy.ts';
import type { EndStep } from './start.ts';
import { NO_TOTALS, outcomeOf, type StepOutcome, type StepsOutcome } from '../outcome.ts';
import { LoopTally } from './loop-tally.ts';
import { present } from '../../value/present.ts';

/** No item starts more than so many places ahead of the oldest one that is not finished. */
const MAX_AHEAD = 1000;

/** A loop under way: what has come of its items. */
export class Loop {
  private readonly gathered = new Map<string, Gathered>();
  private readonly inFlight = new FewMap<number, Promise<void>>();
  private begun = 0;
  private wake = (): void => {};
  /** What nobody foresaw, such as a full disk: it ends the run when what is in flight has ended. */
  private fault: unknown;
  private readonly tally: LoopTally;
  private isReached = false;
  private readonly before: ItemsBefore;
  /** Of a divided run: whether an item is done here. */
  private readonly isOwn: ReturnType<typeof ownItems>;
  /** Under which name items are masked, if they are secret. */
  readonly secret: Secrecy | undefined;
  /** Whether items open addresses of their own. */
  private readonly listens: boolean;

  constructor(
    private readonly step: EachStep,
    private readonly list: Items,
    private readonly context: StepFrame,
    private readonly rejects: RowsFile | undefined,
  ) {
    if (list.length === 0 && step.list.tree) {
      const message = `There is no ${step.name} to go over: the array is empty`;
      const note: Problem = { code: 'nothing-to-check', range: wholeOf(step.list.source), message };
      context.host.noted(step.list.tree, [withReasons(note, step.list.tree, plainFrame(context))]);
    }
    this.tally = new LoopTally(step);
    this.before = new ItemsBefore(step, context);
    this.isOwn = step.steps.length > 0 ? ownItems(context) : undefined;
    this.secret = step.list.tree && secretIn(step.list.tree, context.secretNames);
    this.listens = allSteps(step.steps).some(({ kind }) => kind === 'listen');
    for (const { name, value } of step.gather) {
      // What is secret stays where nothing is written.
      const isLong = streamableLists(context.chain).has(name) && !secretInTemplate(value, context.secretNames);
      this.gathered.set(name, new Gathered(isLong ? () => context.runHost.openLines('gather') : undefined));
    }
  }

  /** The scope of an item sees the names around it. */
  frameOf({ index, value, id, label }: ItemAt): StepFrame {
    const { step, context } = this;
    const scope = new Scope(context.scope);
    scope.bind(step.name, value, this.addressOf(index));
    scope.bind('loop', { number: index + 1 });
    const secretNames = new SecretNames(context.secretNames);
    secretNames.set(step.name, this.secret);
    return {
      ...context,
      scope,
      secretNames,
      isHalted: () => this.tally.isStopped || context.isHalted(),
      keyPrefix: this.prefixOf({ id }),
      item: { number: index + 1, id, ...(label === undefined ? {} : { label }), isTold: step.steps.length > 1 },
      redone: new ReexecutionFlag(context.redone),
      callbacks: this.listens ? new Callbacks(context.callbacks) : context.callbacks,
      sessions: step.ownCookies ? context.sessions.withOwnCookies() : context.sessions,
    };
  }

  /** What the keys of the steps of an item begin with. */
  private prefixOf({ id }: Pick<ItemAt, 'id'>): string {
    return `${this.context.key}{${id}}/`;
  }

  private addressOf(index: number): Address {
    return itemAddress(this.context.address, index + 1);
  }

  /** Starts items in the order of the list, and a further one whenever one ends. */
  async run(identities: Identities, places: Iterable<number>): Promise<void> {
    const identify = (index: number, value: Value) => identities.next(index, value);
    for await (const items of itemsAt(this.list, places, identify)) {
      for (const item of items) {
        if (this.isOwn?.(item) === false) continue;
        if (!this.hasRoom(item.index)) await this.room(item.index);
        if (this.isOver()) {
          this.tally.isCutShort = true;
          break;
        }
        const before = this.before.totals(this.prefixOf(item));
        if (before) this.account(item, before);
        else if (this.step.steps.length === 0) this.gatherAlone(item, this.begun++);
        else this.inFlight.set(item.index, this.guarded(item, this.begun++));
      }
      if (this.isOver()) break;
    }
    await Promise.all(this.inFlight.values());
    this.before.tell();
    if (this.fault !== undefined) throw this.fault;
  }

  /** One item, however it ends. */
  private async guarded(item: ItemAt, order: number): Promise<void> {
    try {
      await this.item(item, order);
    } catch (error) {
      this.fault ??= error;
      this.tally.isStopped = true;
    }
    this.inFlight.delete(item.index);
    this.wake();
  }

  private hasRoom(index: number): boolean {
    const { inFlight, step } = this;
    return inFlight.size < step.concurrency && index - (inFlight.oldest ?? index) < MAX_AHEAD;
  }

  /** Waits until a further item may begin, or none is to. */
  private async room(index: number): Promise<void> {
    while (!this.isOver() && !this.hasRoom(index)) await new Promise<void>((resolve) => (this.wake = resolve));
  }

  private isOver(): boolean {
    return this.tally.isStopped || this.context.isHalted() || this.context.run.stopping.aborted;
  }

  private async item(item: ItemAt, order: number): Promise<void> {
    const { step, context } = this;
    const inner = this.frameOf(item);
    const inside = this.addressOf(item.index);
    if (this.staysFailed(item, order, inner)) return;
    const isLong = step.steps.length > 1;
    const key = inner.keyPrefix.slice(0, -1);
    if (isLong)
      context.run.recorder.recordSoon({
        type: 'opened',
        step: inside,
        key,
        kind: 'item',
        item: itemRecord(inner.item!),
      });
    const running = context.run.runSteps(step.steps, insideOfStep(inside), inner);
    const outcome = await (this.listens ? running.finally(() => inner.callbacks.close()) : running);
    if (outcome.reached) this.isReached = true;
    this.before.wentOver(inner, outcome);
    this.itemEnded(item, order, inner, outcome);
  }

  /** An item for which nothing is done, and nothing waited for. */
  private gatherAlone(item: ItemAt, order: number): void {
    const inner = this.frameOf(item);
    if (!this.staysFailed(item, order, inner)) this.itemEnded(item, order, inner, NO_TOTALS);
  }

  private itemEnded(item: ItemAt, order: number, inner: StepFrame, outcome: StepsOutcome): void {
    const { step, context } = this;
    const isToGather = outcome.exit === 0 && !outcome.halted && !outcome.reached;
    const problem = this.gather(order, isToGather ? inner : undefined);
    if (step.steps.length > 1 || problem) {
      const how = problem ? 'failed' : outcome.halted ? 'cut' : outcomeOf(outcome);
      context.run.recorder.recordSoon({
        type: 'ended',
        step: this.addressOf(item.index),
        key: inner.keyPrefix.slice(0, -1),
        kind: 'item',
        outcome: how,
        ms: 0,
        ...(problem ? { problem, item: { ...inner.item! } } : {}),
      });
    }
    this.account(item, problem ? { ...outcome, exit: 1 } : outcome);
  }

  /** Whether an item is left as it was in the run that is gone on with. */
  private staysFailed(item: ItemAt, order: number, inner: StepFrame): boolean {
    const before = this.before.failed(item, inner);
    if (!before) return false;
    this.gather(order, undefined);
    this.account(item, before);
    return true;
  }

  /** Counts an item that ended, and puts one that failed where it belongs. */
  private account(item: ItemAt, outcome: StepsOutcome): void {
    const hasFailed = !outcome.halted && outcome.exit !== 0 && outcome.exit !== 130;
    if (hasFailed && this.rejects) reject(this.rejects, this.step, item, this.secret, this.context);
    this.tally.add(item.index, outcome, () => isItemRefused(this.context, item.index));
  }

  /** What is gathered of an item that passed, with its context; an error in it fails the item. */
  private gather(order: number, inner: StepFrame | undefined): ProblemRecord | undefined {
    const values = new Map<string, Value>();
    let problem: ProblemRecord | undefined;
    for (const { name, value } of inner ? this.step.gather : []) {
      const cell = catchFillFault(() => fillValue(value, resolversFor(inner!).real));
      if ('problem' in cell) problem ??= cell.problem;
      else values.set(name, cell.value === 'left-out' ? null : cell.value.value);
      this.context.secretNames.set(name, secretInTemplate(value, inner!.secretNames));
    }
    for (const [name, gathered] of this.gathered) gathered.put(order, problem ? undefined : values.get(name));
    return problem;
  }

  /** The end of the loop: what was gathered is bound, failures are told. */
  async end(end: EndStep): Promise<StepOutcome> {
    const { tally, context, list } = this;
    const { totals, failures, done, stopReason } = tally;
    const how = this.endedHow();
    const isWhole = how === 'whole';
    // What secret items have in common is not told.
    const told = this.secret === undefined ? list : [];
    const groups = await failureGroups(context.address, told, failures, context.failed);
    const outcome = how === 'interrupted' || how === 'halted' ? 'cut' : failures.length > 0 ? 'failed' : 'passed';
    // A failed loop tells nothing of its own: each failed item has said why.
    end({
      outcome,
      why: tally.words(list.length),
      counts: { done, failed: failures.length, skipped: list.length - done - failures.length },
      binds: bindReal(isWhole || tally.stopsChain ? this.binds() : [], context),
      ...(groups.length > 0 ? { groups } : {}),
      ...present({ problem: stopReason }),
      quiet: !stopReason,
    });
    return {
      ...totals,
      exit: how === 'interrupted' ? 130 : totals.exit,
      outcome,
      ...(this.isReached ? { reached: true as const } : {}),
      ...(how === 'halted' ? { halted: true as const } : {}),
      ...(isWhole ? { goesOn: true } : { stops: true }),
    };
  }

  private endedHow(): 'interrupted' | 'stopped' | 'halted' | 'whole' {
    const { tally, context } = this;
    if (tally.totals.exit === 130 || context.run.stopping.aborted) return 'interrupted';
    if (tally.isStopped) return 'stopped';
    return tally.isCutShort ? 'halted' : 'whole';
  }

  private binds(): Evaluated['binds'] {
    const { step, context } = this;
    return step.gather.map(({ name, nameRange, file }) => {
      const real = this.gathered.get(name)!.finish();
      const secret = context.secretNames.get(name)?.name;
      const source = { file, text: name, locate: () => nameRange };
      const stored = secret === undefined ? context.run.recorder.stored(real) : toStored(new Mask(secret));
      return {
        name,
        value: stored,
        text: `gather of ${stepNumber(context.address)}`,
        source: placeOf(source),
        reads: [],
        ...(secret === undefined ? {} : { masked: true as const }),
        real,
      };
    });
  }
}
