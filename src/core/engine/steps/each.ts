import { FewMap } from '../../few-map.ts';
import { bareName, streamableLists } from '../../chain/streamable-lists.ts';
import type { EachStep, TableForm } from '../../chain/model.ts';
import { plainTextOf } from '../../template/template.ts';
import { allSteps } from '../../chain/steps/inside.ts';
import { insideOfStep, itemAddress, itemIn, numbersOf, stepNumber, type Address } from '../../journal/address.ts';
import type { ProblemRecord } from '../../journal/events.ts';
import { bindReal, type Evaluated } from '../bind.ts';
import { toStored } from '../../journal/stored.ts';
import { aType, counted, grouped } from '../../value/show.ts';
import { isList, isObject, SpilledList, Mask, type Items, type Value } from '../../value/value.ts';
import { NodeSet } from '../../value/xml.ts';
import { fillValue } from '../../template/fill.ts';
import { Callbacks } from '../callbacks.ts';
import { valueNeeded } from '../condition.ts';
import { withReasons } from '../explain.ts';
import { plainFrame, readsOf } from '../frames.ts';
import type { StepFrame } from '../frame.ts';
import { catchFillFault } from '../fill.ts';
import { failureGroups } from '../failure-groups.ts';
import { Gathered } from '../gathered.ts';
import { itemLabels } from '../item-labels.ts';
import { itemRecord } from './start.ts';
import { Identities } from '../item-identity.ts';
import { itemsAt, placesOf, selectedOf } from '../loop-items.ts';
import type { ItemAt } from '../item-identity.ts';
import { placeOf, problemAt } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { ReexecutionFlag } from '../reexecution-flag.ts';
import { isItemRefused } from '../refused.ts';
import { Scope } from '../scope.ts';
import { SecretNames } from '../secret-names.ts';
import type { Problem } from '../../diagnostics/problem.ts';
import { wholeOf } from '../../diagnostics/source.ts';
import { secretIn, type Secrecy } from '../../expression/secrecy.ts';
import type { RowsFile } from '../../ports.ts';
import { rowsFileAt } from '../rows-file.ts';
import { secretInTemplate } from '../../template/secrecy.ts';
import type { StepRunner } from './definition.ts';
import type { EndStep } from './start.ts';
import { added, NO_TOTALS, outcomeOf, type StepOutcome, type StepsOutcome, type Totals } from '../outcome.ts';

/** No item starts more than so many places ahead of the oldest one that is not finished. */
const MAX_AHEAD = 1000;

/** Runs the steps once for each item of a list, at most so many items at the same time. */
export const runEach: StepRunner<EachStep> = async (step, context, end) => {
  const { address, key, run } = context;
  const advice = `Write ${step.list.source.text.trim()} ?? [] for an array that may be missing.`;
  const needed = valueNeeded(step.list, plainFrame(context), advice);
  if ('problem' in needed) return end(needed);
  const list = needed.value instanceof NodeSet ? [...needed.value] : needed.value;
  if (!isList(list) && !(list instanceof SpilledList)) return end({ problem: notAList(step, needed.value) });
  const rejects = step.rejects && rowsFileAt(step.rejects, context);
  if (rejects && 'problem' in rejects) return end(rejects);
  const loop = new Loop(step, list, context, rejects);
  const labels = step.identifiedBy ? () => undefined : itemLabels(list);
  const identities = new Identities(step, (item) => plainFrame(loop.frameOf(item)), loop.printOfItems(), labels);
  const problem = await identities.problem(list);
  if (problem) return end({ problem });
  const places = placesOf(step, list.length, context);
  if ('problem' in places) return { ...end(places), exit: 2 };
  const selected = Array.isArray(places) ? places.length : selectedOf(list.length, context);
  run.recorder.record({
    type: 'opened',
    step: address,
    key,
    kind: 'each',
    text: `each ${step.head.text.trim()}`,
    total: list.length,
    ...(selected < list.length ? { selected } : {}),
    steps: step.steps.length,
    reads: step.list.tree ? readsOf(step.list.tree, context.scope) : [],
  });
  await loop.run(identities, places);
  return loop.end(end);
};

function notAList({ list: { source } }: EachStep, value: Value): ProblemRecord {
  const text = source.text.trim();
  const advice = isObject(value) ? `To loop over its members: entries(${text}).` : undefined;
  return problemAt(source, 'not-an-array', `A loop needs an array, and ${text} is ${aType(value)}`, advice);
}

/** How the table is laid out that a loop goes over. */
function tableOf({ list }: EachStep, { chain }: StepFrame): TableForm | undefined {
  const name = bareName(list);
  return chain.inputs.find((input) => input.name === name && input.type === 'table')?.table;
}

/** A loop under way: what has come of its items. */
class Loop {
  private readonly gathered = new Map<string, Gathered>();
  private readonly inFlight = new FewMap<number, Promise<void>>();
  private begun = 0;
  private wake = (): void => {};
  /** What nobody foresaw, such as a full disk: it ends the run when what is in flight has ended. */
  private fault: unknown;
  private readonly failures: number[] = [];
  private totals: Totals = NO_TOTALS;
  private done = 0;
  private skipped = 0;
  private inARow = 0;
  private isStopped = false;
  private stopReason: ProblemRecord | undefined;
  private stopsChain = false;
  private isReached = false;
  /** Items were left out, or not done to their ends. */
  private isCutShort = false;
  /** Under which name items are masked, if they are secret. */
  private readonly secret: Secrecy | undefined;
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
    this.secret = step.list.tree && secretIn(step.list.tree, context.secretNames);
    this.listens = allSteps(step.steps).some(({ kind }) => kind === 'listen');
    for (const { name, value } of step.gather) {
      // What is secret stays where nothing is written.
      const isLong = streamableLists(context.chain).has(name) && !secretInTemplate(value, context.secretNames);
      this.gathered.set(name, new Gathered(isLong ? () => context.runHost.openLines('gather') : undefined));
    }
  }

  /** How items are printed whose identity gives something secret away. */
  printOfItems(): ((text: string) => string) | undefined {
    const { step, context, secret } = this;
    const names = { get: (name: string) => (name === step.name ? secret : context.secretNames.get(name)) };
    const known = step.identifiedBy?.tree ? secretIn(step.identifiedBy.tree, names) : secret;
    return known === undefined ? undefined : (text) => context.runHost.keyedHash(text);
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
      isHalted: () => this.isStopped || context.isHalted(),
      keyPrefix: `${context.key}{${id}}/`,
      item: { number: index + 1, id, ...(label === undefined ? {} : { label }), isTold: step.steps.length > 1 },
      redone: new ReexecutionFlag(context.redone),
      callbacks: this.listens ? new Callbacks(context.callbacks) : context.callbacks,
      sessions: step.ownCookies ? context.sessions.withOwnCookies() : context.sessions,
    };
  }

  private addressOf(index: number): Address {
    return itemAddress(this.context.address, index + 1);
  }

  /** Starts items in the order of the list, and a further one whenever one ends. */
  async run(identities: Identities, places: Iterable<number>): Promise<void> {
    const identify = (index: number, value: Value) => identities.next(index, value);
    for await (const items of itemsAt(this.list, places, identify)) {
      for (const item of items) {
        if (!this.hasRoom(item.index)) await this.room(item.index);
        if (this.isOver()) {
          this.isCutShort = true;
          break;
        }
        if (this.step.steps.length === 0) this.gatherAlone(item, this.begun++);
        else this.inFlight.set(item.index, this.guarded(item, this.begun++));
      }
      if (this.isOver()) break;
    }
    await Promise.all(this.inFlight.values());
    if (this.fault !== undefined) throw this.fault;
    this.skipped = this.list.length - this.done - this.failures.length;
  }

  /** One item, however it ends. */
  private async guarded(item: ItemAt, order: number): Promise<void> {
    try {
      await this.item(item, order);
    } catch (error) {
      this.fault ??= error;
      this.isStopped = true;
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
    return this.isStopped || this.context.isHalted() || this.context.run.stopping.aborted;
  }

  private async item(item: ItemAt, order: number): Promise<void> {
    const { step, context } = this;
    const inner = this.frameOf(item);
    const inside = this.addressOf(item.index);
    if (this.staysFailed(item, order, inner)) return;
    const isLong = step.steps.length > 1;
    const key = inner.keyPrefix.slice(0, -1);
    if (isLong)
      context.run.recorder.record({ type: 'opened', step: inside, key, kind: 'item', item: itemRecord(inner.item!) });
    const running = context.run.runSteps(step.steps, insideOfStep(inside), inner);
    const outcome = await (this.listens ? running.finally(() => inner.callbacks.close()) : running);
    if (outcome.reached) this.isReached = true;
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
      context.run.recorder.record({
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
    const before = this.failedBefore(item, inner);
    if (!before) return false;
    this.gather(order, undefined);
    this.account(item, before);
    return true;
  }

  /** An item that failed in the run that is gone on with stays failed, unless the failed ones are tried again. */
  private failedBefore(item: ItemAt, { keyPrefix }: StepFrame): StepsOutcome | undefined {
    const { recorded, failed } = this.context;
    if (!recorded?.isSameRun || recorded.failed || this.step.onFailure !== 'continue') return undefined;
    const [ended] = recorded.records.failedIn(keyPrefix);
    if (!ended) return undefined;
    const { step: address, problem } = ended;
    const { code = '', message: reason = '', source } = problem ?? {};
    const place = `${source?.file ?? ''}:${source?.line ?? 0}`;
    const name = ended.name ?? ended.kind;
    failed.push({ address, step: name, item: item.label ?? item.index + 1, code, reason, status: null, place });
    return { ...NO_TOTALS, exit: 1 };
  }

  /** Counts an item that ended, and stops the loop where it has to be. */
  private account(item: ItemAt, outcome: StepsOutcome): void {
    const { step } = this;
    const { exit, halted, stops, reached } = outcome;
    this.totals = added(this.totals, halted ? { ...outcome, exit: 0 } : outcome);
    if (halted) return void (this.isCutShort = true);
    // It was stopped, and has not failed.
    if (exit === 130) return void (this.isStopped = true);
    if (exit === 0) {
      this.done++;
      this.inARow = 0;
      // A `stop` that passed ends the chain all the same.
      if (stops && !reached) this.stopsChain = this.isStopped = true;
      return;
    }
    this.failures.push(item.index);
    this.reject(item);
    this.inARow++;
    if (step.onFailure === 'stop' || exit !== 1) this.isStopped = true;
    if (!this.isStopped && isItemRefused(this.context, item.index)) {
      this.isStopped = true;
      const message = 'The loop was stopped: its credentials are refused, and would be for each further item';
      this.stopReason = problemAt(this.step.list.source, 'not-authorized', message);
    }
    if (step.maxConsecutiveFailures !== undefined && this.inARow >= step.maxConsecutiveFailures && !this.isStopped) {
      this.isStopped = true;
      this.stopReason = this.tooManyFailures(step.maxConsecutiveFailures);
    }
  }

  /** Puts an item that failed into the file for them, where there is one. */
  private reject({ index, value }: ItemAt): void {
    const { rejects, context } = this;
    if (!rejects) return;
    const { address } = context;
    const failed = context.failed.findLast((each) => itemIn(address, each.address) === index + 1);
    const item = this.secret === undefined ? value : new Mask(this.secret.name);
    const order = [...numbersOf(address), index];
    const reason = failed?.reason ?? '';
    const { step: each } = this;
    const isChosen = plainTextOf(each.rejects!) === undefined && !each.replace;
    const told = { order, item, step: failed?.step ?? '', reason };
    context.run.writtenFiles.reject(rejects, address, told, { isChosen, table: tableOf(each, context) });
  }

  private tooManyFailures(count: number): ProblemRecord {
    const message = `The loop was stopped: ${counted(count, 'item')} failed in a row`;
    const advice = 'Find out why the first of them failed; max-consecutive-failures sets the limit.';
    return problemAt(this.step.list.source, 'too-many-failures', message, advice);
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
    const { totals, failures, done, skipped, context, list } = this;
    const isInterrupted = totals.exit === 130 || context.run.stopping.aborted;
    const isHalted = this.isCutShort && !this.isStopped && !isInterrupted;
    const goesOn = !this.isStopped && !isInterrupted && !isHalted;
    const binds = goesOn || this.stopsChain ? this.binds() : [];
    // What secret items have in common is not told.
    const told = this.secret === undefined ? list : [];
    const groups = await failureGroups(context.address, told, failures, context.failed);
    const outcome = isInterrupted || isHalted ? 'cut' : failures.length > 0 ? 'failed' : 'passed';
    const counts = { done, failed: failures.length, skipped };
    const ran = done + failures.length;
    const items = skipped > 0 ? `${grouped(ran)} of ${counted(list.length, 'item')}` : counted(list.length, 'item');
    const why = failures.length > 0 ? `${items}, ${grouped(failures.length)} failed` : items;
    // A failed loop tells nothing of its own: each failed item has said why.
    end({
      outcome,
      why,
      counts,
      binds: bindReal(binds, context),
      ...(groups.length > 0 ? { groups } : {}),
      ...(this.stopReason ? { problem: this.stopReason } : {}),
      quiet: !this.stopReason,
    });
    const exit = isInterrupted ? 130 : totals.exit;
    const early = {
      ...(this.isReached ? { reached: true as const } : {}),
      ...(isHalted ? { halted: true as const } : {}),
    };
    return { ...totals, exit, outcome, ...early, ...(goesOn ? { goesOn: true } : { stops: true }) };
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
