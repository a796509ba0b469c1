import { isDone, type CallEnd } from '../journal/call-end.ts';
import { changesSomething } from '../chain/changes.ts';
import type { EndpointOf } from '../chain/endpoints.ts';
import type { CallStep, Chain, Step } from '../chain/model.ts';
import { nodesOfPart, placeholdersOfRequest, type Part } from '../chain/parts.ts';
import { allPartsOf, allSteps, bindingsOf, callsOf, listsOf, partsOf } from '../chain/steps/inside.ts';
import { stepKey } from '../chain/step-key.ts';
import type { Source } from '../diagnostics/source.ts';
import { namesRead } from '../expression/names-read.ts';
import { isSafe } from '../http/methods.ts';
import { type CallRecords } from '../journal/call-records.ts';
import { assertionFingerprint, requestText } from './call/fingerprint.ts';
import type { RunHost } from './host.ts';

/** How many calls there are of a sort, and the address or the name of the first. */
export type Tally = Readonly<{ count: number; first: string | undefined }>;

/** What going on with a run will do, as the record and the files tell it before anything is evaluated. */
export type ResumePlan = Readonly<{
  done: Tally;
  judgedAgain: Tally;
  toSend: Tally;
  /** Changes that were made and are other requests now, about which somebody is asked. */
  changed: Tally;
  /** Done calls that are sent again if what they read of a call comes out differently; `first` is that call. */
  mayFollow: Tally;
  /** Calls of the cleanup, which follow when the chain ends. */
  cleanup: number;
  /** Whether there may be more to send: loops whose lists are not known yet. */
  isAtLeast: boolean;
}>;

export type ResumePlanOptions = Readonly<{
  chain: Chain;
  chainAt(file: Source): Chain | undefined;
  endpointOf: EndpointOf;
  host: RunHost;
  records: CallRecords;
  /** Whether items that failed are tried again. */
  failed: boolean;
  /** What was said of all changes that are other requests now. */
  changed: 'resend' | 'skip' | undefined;
}>;

export function resumePlanOf(options: ResumePlanOptions): ResumePlan {
  const counting = new Counting(options);
  const { chain, host } = options;
  counting.steps(chain.steps, { chain, host, prefix: '', times: 1, affected: new Map(), redone: {} });
  const { done, judgedAgain, toSend, changed, mayFollow, isAtLeast } = counting;
  const cleanup = allSteps(chain.cleanup).filter(({ kind }) => kind === 'call').length;
  return { done, judgedAgain, toSend, changed, mayFollow, cleanup, isAtLeast };
}

/** The first call of a scope that is sent, or may be: behind it what only reads is read again. */
type ReexecutionFlag = { by?: string; maybe?: string; around?: ReexecutionFlag };

/** Where steps are gone over. */
type At = Readonly<{
  chain: Chain;
  host: RunHost;
  prefix: string;
  /** How often the steps are done, where that is known. */
  times: number | undefined;
  /** Names whose values may come out differently, with the call that they depend on. */
  affected: Map<string, string>;
  redone: ReexecutionFlag;
}>;

/** A call as the files have it now. */
type CallNow = Readonly<{ step: CallStep; cause: string | undefined; at: At; text: string; judgements: string }>;

class Counting {
  readonly done = none();
  readonly judgedAgain = none();
  readonly toSend = none();
  readonly changed = none();
  readonly mayFollow = none();
  isAtLeast = false;
  private readonly ends = new Map<string, Map<CallEnd, Tally>>();

  constructor(private readonly options: ResumePlanOptions) {
    const { records } = options;
    for (const { plainKey, end, address } of records.all()) this.put(plainKey, end, address);
  }

  private put(key: string, end: CallEnd, address: () => string): void {
    let ends = this.ends.get(key);
    if (!ends) this.ends.set(key, (ends = new Map<CallEnd, Tally>()));
    const { count = 0, first = address() } = ends.get(end) ?? {};
    ends.set(end, { count: count + 1, first });
  }

  steps(steps: readonly Step[], at: At): void {
    for (const step of steps) {
      const cause = causeIn(step, at);
      if (step.kind === 'call') this.call(step, cause, step.when ? { ...at, times: undefined } : at);
      else {
        affect(step, cause, at);
        this.parts(partsOf(step), step, at.prefix + stepKey(at.chain, step), at);
      }
    }
  }

  private parts(parts: readonly Part[], step: Step, key: string, at: At): void {
    for (const part of parts) {
      if (part.sort === 'steps') this.steps(part.steps, at);
      else if (part.sort === 'arms' || part.sort === 'answers')
        for (const steps of listsOf(part)) this.steps(steps, { ...at, times: undefined });
      else if (part.sort === 'scope') this.scope(part, step, key, at);
      else if (part.sort === 'file' && part.of === 'chain') {
        const used = this.options.chainAt(part.source);
        if (used) this.used(used, step, key, at);
      }
    }
  }

  private scope(part: Extract<Part, { sort: 'scope' }>, step: Step, key: string, at: At): void {
    const total = part.of === 'item' && at.times === 1 && !step.when ? this.options.records.totals.get(key) : undefined;
    const redone = part.of === 'item' ? { around: at.redone } : at.redone;
    const affected = new Map(at.affected);
    this.parts(part.parts, step, key, { ...at, prefix: `${key}/`, times: total, redone, affected });
  }

  /** A chain that is used has names of its own: its inputs may come out differently when what is passed to them may. */
  private used(chain: Chain, step: Step, key: string, at: At): void {
    const cause = causeIn(step, at);
    const affected = new Map(cause === undefined ? [] : chain.inputs.map(({ name }) => [name, cause]));
    const host = at.host.beside(chain.file);
    const inner: At = { ...at, chain, host, prefix: `${key}/`, affected, redone: { around: at.redone } };
    this.steps(chain.steps, inner);
    const sent = inner.redone.by;
    if (sent !== undefined) affect(step, sent, at);
  }

  private call(step: CallStep, cause: string | undefined, at: At): void {
    const key = at.prefix + step.name;
    const now: CallNow = { step, cause, at, ...this.printsOf(step, at) };
    const ends = this.ends.get(key) ?? this.renamed(key, now.text, at) ?? new Map<CallEnd, Tally>();
    const [sent, changed] = [this.toSend.count, this.changed.count];
    let ended = 0;
    for (const [each, tally] of ends) {
      this.ended(each, tally, now);
      ended += tally.count;
    }
    if (at.times === undefined) this.isAtLeast ||= true;
    const { times = ended } = at;
    if (times > ended) count(this.toSend, { count: times - ended, first: step.name });
    if (this.toSend.count > sent) at.redone.by ??= step.name;
    else if (this.changed.count > changed) at.redone.maybe ??= step.name;
    else return affect(step, cause, at);
    affect(step, step.name, at);
  }

  private printsOf(step: CallStep, at: At): Pick<CallNow, 'text' | 'judgements'> {
    const endpoint = this.options.endpointOf(at.chain, step);
    return { text: requestText(step, endpoint, at.host), judgements: assertionFingerprint(step, endpoint, at.host) };
  }

  /** What becomes of calls that ended alike. */
  private ended(end: CallEnd, tally: Tally, { step, cause, at, text, judgements }: CallNow): void {
    const isJudgedAgain =
      end.isSent && end.assertionFingerprint !== undefined && end.assertionFingerprint !== judgements;
    if (isDone(end) || isJudgedAgain) {
      const isEdited = end.requestText !== undefined && end.requestText !== text;
      const kept = isJudgedAgain ? this.judgedAgain : this.done;
      return this.completed(step, tally, { kept, isEdited, cause, at });
    }
    const isLeft = end.outcome === 'skipped' || (end.outcome === 'failed' && !this.options.failed && end.isOfItem);
    if (!isLeft) count(this.toSend, tally);
  }

  /** A call that was done: kept, sent again as another request or behind one that is sent, or depending on what comes out. */
  private completed(
    step: CallStep,
    tally: Tally,
    { kept, isEdited, cause, at }: Readonly<{ kept: Count; isEdited: boolean; cause: string | undefined; at: At }>,
  ): void {
    const isReadAgain = isSafe(step.request.line?.method ?? 'GET') && kept === this.done;
    if (isEdited) return count(this.asked(step), tally);
    if (isReadAgain && isBehind(at.redone.around)) return count(this.toSend, tally);
    if (isReadAgain && at.redone.by !== undefined && at.times === 1) return count(this.toSend, tally);
    const reason = cause ?? (isReadAgain ? maybeBehind(at.redone) : undefined);
    if (reason === undefined) return count(kept, tally);
    count(this.mayFollow, { count: tally.count, first: reason });
  }

  /** What becomes of a done call whose request is another one now. */
  private asked(step: CallStep): Count {
    if (!changesSomething(step) || step.repeatable === true) return this.toSend;
    const { changed } = this.options;
    return changed === 'skip' ? this.done : changed === 'resend' ? this.toSend : this.changed;
  }

  /** The ends of a call that has another name now and is the same request. */
  private renamed(key: string, text: string, { chain, prefix }: At): Map<CallEnd, Tally> | undefined {
    const names = new Set(callsOf(chain).map(({ name }) => name));
    const orphans = [...this.ends].filter(([each, ends]) => {
      const name = each.slice(prefix.length);
      const isHere = each.startsWith(prefix) && !name.includes('/') && each !== key;
      return isHere && !names.has(name) && [...ends.keys()].every(({ requestText: before }) => before === text);
    });
    return orphans.length === 1 ? orphans[0]![1] : undefined;
  }
}

type Count = { count: number; first: string | undefined };

function none(): Count {
  return { count: 0, first: undefined };
}

function count(tally: Count, { count: more, first }: Tally): void {
  tally.count += more;
  tally.first ??= first;
}

function isBehind(redone: ReexecutionFlag | undefined): boolean {
  return redone !== undefined && (redone.by !== undefined || isBehind(redone.around));
}

function maybeBehind(redone: ReexecutionFlag | undefined): string | undefined {
  return redone && (redone.by ?? redone.maybe ?? maybeBehind(redone.around));
}

/** The call on which what a step reads depends, if there is one. */
function causeIn(step: Step, { affected }: At): string | undefined {
  if (affected.size === 0) return undefined;
  // What a call is judged by is judged anew anyhow.
  const read =
    step.kind === 'call'
      ? placeholdersOfRequest(step.request).map(({ node }) => node)
      : allPartsOf(step).flatMap((part) => nodesOfPart(part).map(([node]) => node));
  const trees = [...(step.when?.tree ? [step.when.tree] : []), ...read];
  return trees
    .flatMap(namesRead)
    .map((name) => affected.get(name))
    .find((cause) => cause !== undefined);
}

/** What a step binds depends on what it does. */
function affect(step: Step, cause: string | undefined, { affected }: At): void {
  for (const { name } of bindingsOf(step)) {
    if (cause === undefined) affected.delete(name);
    else affected.set(name, cause);
  }
}
