import { diagnosticIn } from '../diagnostics/source.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import { boundTo, secretIn } from '../expression/secrecy.ts';
import type { Bind, ProblemRecord } from '../journal/events.ts';
import { toStored } from '../journal/stored.ts';
import type { Expression, Named } from '../schema/leaves.ts';
import { isList, Mask, type Value } from '../value/value.ts';
import { detached } from '../value/xml.ts';
import { readsOf } from './frames.ts';
import type { StepFrame } from './frame.ts';
import { explainNothing, withReasons } from './explain.ts';
import { stepName } from '../journal/address.ts';
import { placeOf, problemRecord } from './places.ts';

/** What came of the entries of a `keep` or `let`: every one is tried, in order, and sees those before it. */
export type Evaluated = Readonly<{ binds: readonly (Bind & { real: Value })[]; problems: readonly ProblemRecord[] }>;

/** The server whose response is read, and its exchange: a long value is only pointed to in the record, where one holds all of it. */
type AnsweredBy = Readonly<{ by: string; exchange?: number }>;

/** What was bound, for the record; or why nothing was. */
export type Bound =
  Readonly<{ binds: Bind[] }> | Readonly<{ problem: ProblemRecord; problems: readonly ProblemRecord[] }>;

/**
 * Evaluates the entries of a `keep` or `let`, and binds them when all of them have a value. `answered` says whose response
 * they read.
 */
export function bindAll(entries: Named<Expression>, frame: Frame, context: StepFrame, answered?: AnsweredBy): Bound {
  const evaluated = evaluateAll(entries, frame, context, answered);
  const [problem] = evaluated.problems;
  return problem ? { problem, problems: evaluated.problems } : { binds: bindReal(evaluated.binds, context) };
}

/** Binds what was evaluated, and gives what is recorded of it. */
export function bindReal(binds: Evaluated['binds'], { scope, address }: StepFrame): Bind[] {
  return binds.map(({ real, ...bind }) => {
    const { name, text, source } = bind;
    scope.bind(name, real, address);
    if (isList(real) && real.length === 0) {
      const by = address.includes('/') ? `by ${stepName(address)} ` : '';
      scope.lack(name, `${name} was kept ${by}as an empty array: ${text.trim()} (${source.file}:${source.line})`);
    }
    return bind;
  });
}

/** The same without binding anything. */
export function evaluateAll(
  entries: Named<Expression>,
  frame: Frame,
  context: StepFrame,
  answered?: AnsweredBy,
): Evaluated {
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
      problems.push(problemRecord(diagnosticIn(source, withReasons(outcome.problem, tree!, inner))));
    } else if (outcome.value === undefined) {
      const { code, message, advice, part } = explainNothing(tree!, source, inner);
      const range = part?.node.range ?? [0, source.text.length];
      const otherwise = `If it may be missing, write ${source.text} ?? null.`;
      const problem = {
        code,
        range,
        message,
        advice: [advice, otherwise].filter(Boolean).join(' '),
      };
      problems.push(problemRecord(diagnosticIn(source, problem)));
    } else {
      const found = secretIn(tree!, context.secretNames, answered?.by);
      const secrecy = found && boundTo(name, found);
      const secret = secrecy?.name;
      const real = detached(outcome.value);
      const shown = secret === undefined ? real : new Mask(secret);
      if (secret !== undefined) {
        context.secretNames.set(name, secrecy);
        context.run.recorder.mark(secret, real);
      }
      const stored =
        answered?.exchange === undefined
          ? context.run.recorder.stored(shown)
          : toStored(shown, { exchange: answered.exchange, expr: source.text });
      const masked = secret === undefined ? {} : { masked: true as const };
      const reads = readsOf(tree!, context.scope).map((read) =>
        binds.some((bind) => bind.name === read.name) ? { ...read, from: context.address } : read,
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
