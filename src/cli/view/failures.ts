import type { FailureGroup } from '../../core/journal/records.ts';
import { reasonOf } from '../../core/report/failure-lines.ts';
import type { EventOf } from '../../core/journal/events.ts';
import { explainFailure, type Failure } from '../../core/report/failure.ts';
import type { History } from '../../core/report/history.ts';
import { loopOf, stepName, stepNumber } from '../../core/journal/address.ts';
import { showFailure } from './failure.ts';
import { groupLines } from './loops.ts';
import type { Palette } from './palette.ts';
import { wrapped } from './text.ts';
import { visible } from '../../core/value/visible.ts';

/** Failures that are told; of more there is the journal. */
const MAX_FAILURES = 200;
/** Items of a loop that may fail before those that are alike are told together. */
const FEW = 3;

type Kept = Readonly<{
  failure: Failure;
  /** What is said of others that are alike. */
  alike: readonly string[];
  address: string;
  step: string;
  loop: string | undefined;
  /** The number of its item, from 1. */
  item: number;
  /** Equal for failures that are grouped parallel: where, how, and with what status. */
  code: string;
  status: number | null;
  place: string;
}>;

/** The failures of a run, as they are told at its end: of those in a loop the first few, and the first of each kind. */
export class Failures {
  private kept: Kept[] = [];

  add(event: EventOf<'ended'>, status: number | null, history: History): void {
    const { step, item } = event;
    const loop = loopOf(step);
    const name = stepName(step);
    const failure = explainFailure(event, history);
    const place = `${failure.place?.file}:${failure.place?.line}`;
    const code = event.problem?.code ?? '';
    const kept = { failure, alike: [], address: step, step: name, loop, item: item?.number ?? 0, code, status, place };
    const alike = loop === undefined ? [] : this.kept.filter((each) => isAlike(each, kept));
    const last = alike.at(-1);
    if (alike.length < FEW || !last) {
      if (this.kept.length < MAX_FAILURES) this.kept.push(kept);
    } else if (kept.item < last.item) this.kept[this.kept.indexOf(last)] = kept;
  }

  /** A step that failed before ended anew: what was told of it no longer holds. */
  forget(address: string): void {
    this.kept = this.kept.filter((each) => each.address !== address);
  }

  /** Of many failures of a loop that are alike one is told, with what the others have in common with it. */
  group({ step, groups = [] }: EventOf<'ended'>): void {
    if (groups.length === 0) return;
    const loop = stepNumber(step);
    const own = this.kept.filter((each) => each.loop === loop);
    const told = groups.flatMap((group) => {
      const first = firstOf(own, group);
      return first ? [{ ...first, alike: groupLines(group) }] : [];
    });
    this.kept = [...this.kept.filter((each) => each.loop !== loop), ...told];
  }

  /** The first failure in one line: the step, the item and the reason. */
  first(): string | undefined {
    const [first] = this.kept;
    if (!first) return undefined;
    const { step, item } = first.failure;
    return visible(`${step}${item === undefined ? '' : `, ${item}`}: ${reasonOf(first.failure)}`);
  }

  /** Each as lines for a terminal so wide. */
  texts(palette: Palette, columns: number, run: string | undefined): readonly string[] {
    return this.kept.map(({ failure, alike }) => {
      const lines = alike.flatMap((line) => wrapped(visible(line), columns - 8));
      return [
        showFailure(failure, palette, columns, run),
        ...lines.map((line) => `        ${palette.warning(line)}`),
      ].join('\n');
    });
  }
}

function isAlike(one: Kept, other: Kept): boolean {
  const { loop, step, code, status, place } = one;
  return (
    loop === other.loop &&
    step === other.step &&
    code === other.code &&
    status === other.status &&
    place === other.place
  );
}

function firstOf(own: readonly Kept[], { first, step, code, status }: FailureGroup): Kept | undefined {
  const same = own.filter((each) => each.step === step && each.code === code && each.status === status);
  return same.find(({ item }) => item === first) ?? same[0] ?? own.find((each) => each.step === step);
}
