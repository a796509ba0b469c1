import { diagnosticIn } from '../diagnostics/source.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import { MARKED, secretIn } from '../expression/secrecy.ts';
import type { Bind, ProblemRecord } from '../journal/events.ts';
import { toStored } from '../journal/stored.ts';
import type { Expression, Named } from '../schema/leaves.ts';
import { Mask, type Value } from '../value/value.ts';
import { detached } from '../value/xml.ts';
import { readsOf, type RunContext } from './context.ts';
import { explainNothing } from './explain.ts';
import { placeOf, problemRecord } from './places.ts';

/** What is bound, or why it cannot be: every entry is tried, in order, and sees those before it. */
export type Kept = Readonly<{ binds: readonly (Bind & { real: Value })[]; problems: readonly ProblemRecord[] }>;

/**
 * Evaluates the entries of a `keep` or `let`. `exchange` is the one whose response they read, so that a long value is
 * only pointed to in the record.
 */
export function bindAll(
  entries: Named<Expression>,
  exchange: number | undefined,
  address: string,
  frame: Frame,
  context: RunContext,
): Kept {
  const binds: (Bind & { real: Value })[] = [];
  const problems: ProblemRecord[] = [];
  const inner: Frame = {
    ...frame,
    name: (name) => {
      const earlier = binds.find((bind) => bind.name === name);
      return earlier ? earlier.real : frame.name(name);
    },
  };
  for (const { name, value: expression } of entries) {
    const { source, tree } = expression;
    const outcome = evaluate(tree!, inner);
    if (outcome.problem) {
      problems.push(problemRecord(diagnosticIn(source, outcome.problem)));
    } else if (outcome.value === undefined) {
      const { message, advice, part } = explainNothing(tree!, source, inner);
      const range = part?.node.range ?? [0, source.text.length];
      const otherwise = `If it may be missing, write ${source.text} ?? null.`;
      const problem = {
        code: 'found-nothing' as const,
        range,
        message,
        advice: [advice, otherwise].filter(Boolean).join(' '),
      };
      problems.push(problemRecord(diagnosticIn(source, problem)));
    } else {
      const found = secretIn(tree!, context.secretNames);
      const secret = found === MARKED ? name : found;
      const real = detached(outcome.value);
      const shown = secret === undefined ? real : new Mask(secret);
      if (secret !== undefined) {
        context.secretNames.set(name, secret);
        context.recorder.mark(secret, real);
      }
      const stored =
        exchange === undefined ? context.recorder.stored(shown) : toStored(shown, { exchange, expr: source.text });
      const masked = secret === undefined ? {} : { masked: true as const };
      const reads = readsOf(tree!, context.scope).map((read) =>
        binds.some((bind) => bind.name === read.name) ? { ...read, from: address } : read,
      );
      binds.push({
        name,
        value: stored,
        text: source.text,
        source: placeOf(source),
        reads,
        ...masked,
        real,
      });
    }
  }
  return { binds, problems };
}
