import type { ProblemRecord, Seen, Stored } from '../journal/records.ts';
import type { Expression } from '../schema/leaves.ts';
import { diagnosticIn, wholeOf } from '../diagnostics/source.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import { toStored } from '../journal/stored.ts';
import { showBriefly, showValue } from '../value/show.ts';
import { Mask } from '../value/value.ts';
import { secretIn } from '../expression/secrecy.ts';
import { readsOf } from './frames.ts';
import type { StepFrame } from './frame.ts';
import { partsSeen } from './explain.ts';
import { problemRecord } from './places.ts';

/** What two conditions decide about a look or a round: nothing means not yet. */
type Verdict = Readonly<{ done: 'no' | 'until' | 'give-up-when' }> | Readonly<{ problem: ProblemRecord }>;

/** Giving up is asked for first. */
export function verdictOf(until: Expression | undefined, giveUpWhen: Expression | undefined, frame: Frame): Verdict {
  for (const [done, condition] of [
    ['give-up-when', giveUpWhen],
    ['until', until],
  ] as const) {
    const holds = condition && decided(condition, frame);
    if (holds === true) return { done };
    if (typeof holds === 'object') return { problem: holds };
  }
  return { done: 'no' };
}

function decided({ source, tree }: Expression, frame: Frame): boolean | ProblemRecord {
  const { value, problem } = evaluate(tree!, frame);
  if (problem) return problemRecord(diagnosticIn(source, problem));
  if (value === undefined || typeof value === 'boolean') return value === true;
  const message = `A condition must be true or false, not ${showValue(value)}`;
  return problemRecord(diagnosticIn(source, { code: 'not-a-condition', range: wholeOf(source), message }));
}

/** How often the same state is written out before it is counted. */
const MAX_WRITTEN = 3;

/** What conditions read in each look or round, in order: the sequence of states. */
export class States {
  private readonly all = new Map<string, string[]>();

  /** Takes in a look, and gives what it saw for the record. */
  add(expressions: readonly (Expression | undefined)[], frame: Frame, context: StepFrame): Record<string, Stored> {
    const seen = this.seen(expressions, frame, context);
    for (const { text, value } of seen) {
      const states = this.all.get(text) ?? [];
      states.push(shown(value));
      this.all.set(text, states);
    }
    return Object.fromEntries(seen.map(({ text, value }) => [text, value]));
  }

  /** The same for a message: each with its value, and what it was in the looks before. */
  seen(
    expressions: readonly (Expression | undefined)[],
    frame: Frame,
    context: StepFrame,
  ): readonly (Seen & { before?: string })[] {
    const parts = expressions.flatMap((each) => (each?.tree ? partsSeen(each.tree, each.source, frame) : []));
    const seen = new Map<string, Seen & { before?: string }>();
    for (const { text, value, node } of parts) {
      if (seen.has(text)) continue;
      const secret = value === undefined ? undefined : secretIn(node, context.secretNames)?.name;
      const before = this.sequence(text);
      seen.set(text, {
        text,
        value: toStored(secret === undefined ? value : new Mask(secret)),
        reads: readsOf(node, context.scope),
        ...(before === '' ? {} : { before }),
      });
    }
    return [...seen.values()];
  }

  /** `queued, queued, inspecting 14 times`: what it was in all looks but the last. Nothing for what never changed. */
  private sequence(text: string): string {
    const states = (this.all.get(text) ?? []).slice(0, -1);
    const last = this.all.get(text)?.at(-1);
    if (states.every((each) => each === last)) return '';
    const runs: { state: string; count: number }[] = [];
    for (const state of states) {
      const run = runs.at(-1);
      if (run?.state === state) run.count++;
      else runs.push({ state, count: 1 });
    }
    return runs
      .flatMap(({ state, count }) =>
        count <= MAX_WRITTEN ? Array<string>(count).fill(state) : [`${state} ${count} times`],
      )
      .join(', ');
  }
}

function shown(stored: Stored): string {
  if ('nothing' in stored) return 'nothing';
  if ('json' in stored) return typeof stored.json === 'string' ? stored.json : showBriefly(stored.json);
  return 'text' in stored && typeof stored.text === 'string' ? stored.text : 'something';
}
