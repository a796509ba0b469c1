import type { Bind, ProblemRecord } from '../journal/records.ts';
import { diagnosticIn } from '../diagnostics/source.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import { boundTo, secretIn } from '../expression/secrecy.ts';
import { toStored } from '../journal/stored.ts';
import type { Expression, Named } from '../schema/leaves.ts';
import { isList, Mask, SpilledList, type Value } from '../value/value.ts';
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
  // A name stands once in the entries of a step.
  const binds = new Map<string, Bind & { real: Value }>();
  const problems: ProblemRecord[] = [];
  const inner: Frame = {
    ...frame,
    name: (name) => {
      const earlier = binds.get(name);
      return earlier ? earlier.real : frame.name(name);
    },
  };
  for (const { name, value: expression } of entries) {
    const { source, tree } = expression;
    const outcome = evaluate(tree!, inner);
    if (outcome.problem) {
      problems.push(problemRecord(diagnosticIn(source, withReasons(outcome.problem, tree!, inner))));
    } else if (outcome.value === undefined) problems.push(nothingFound(expression, inner));
    else binds.set(name, bindOf(name, expression, outcome.value, context, { answered, earlier: binds }));
  }
  return { binds: [...binds.values()], problems };
}

function nothingFound({ source, tree }: Expression, frame: Frame): ProblemRecord {
  const { code, message, advice, part } = explainNothing(tree!, source, frame);
  const range = part?.node.range ?? [0, source.text.length];
  const otherwise = `If it may be missing, write ${source.text} ?? null.`;
  const told = [advice, otherwise].filter(Boolean).join(' ');
  return problemRecord(diagnosticIn(source, { code, range, message, advice: told }));
}

/** What is bound and recorded of a value; of a secret one its mask. */
function bindOf(
  name: string,
  { source, tree }: Expression,
  value: Value,
  context: StepFrame,
  { answered, earlier }: Readonly<{ answered: AnsweredBy | undefined; earlier: ReadonlyMap<string, unknown> }>,
): Evaluated['binds'][number] {
  const { recorder } = context.run;
  const found = secretIn(tree!, context.secretNames, answered?.by);
  const secrecy = found && boundTo(name, found);
  const real = detached(value);
  if (secrecy) {
    context.secretNames.set(name, secrecy);
    recorder.mark(secrecy.name, real);
  }
  const shown = secrecy ? new Mask(secrecy.name) : real;
  const { exchange } = answered ?? {};
  return {
    name,
    value:
      exchange === undefined || shown instanceof SpilledList
        ? recorder.stored(shown)
        : toStored(shown, { exchange, expr: source.text }),
    text: source.text,
    source: placeOf(source),
    reads: readsOf(tree!, context.scope).map((read) =>
      earlier.has(read.name) ? { ...read, from: context.address } : read,
    ),
    ...(secrecy ? { masked: true as const } : {}),
    real,
  };
}
