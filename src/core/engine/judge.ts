import { diagnosticIn } from '../diagnostics/source.ts';
import type { CallStep, Expectation } from '../chain/model.ts';
import type { Expression, Named } from '../schema/leaves.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import { isComparison, ungrouped, type Node } from '../expression/model.ts';
import type { Bind, ExpectRecord, ProblemRecord, Seen } from '../journal/events.ts';
import { toStored } from '../journal/stored.ts';
import { aKind, showValue } from '../value/show.ts';
import { isList, kindOf, Mask, type Maybe, type Value } from '../value/value.ts';
import { namesRead, readsOf, type RunContext } from './context.ts';
import { explainNothing, partsSeen, type Part } from './explain.ts';
import { offendersIn } from './offenders.ts';
import { placeOf, problemRecord } from './places.ts';
import { secretIn } from '../expression/secrecy.ts';

/** Judges a response by every expectation: the default status first, then those of the call. All are tried. */
export function judge(
  step: CallStep,
  frame: Frame,
  status: number,
  exchange: number,
  context: RunContext,
): ExpectRecord[] {
  const own = step.expect.map((expectation) => judgeOne(expectation, frame, exchange, context));
  return readsStatus(step) ? own : [defaultStatus(status, step), ...own];
}

/** Whether a call says itself which status it expects; otherwise it is 2xx. */
function readsStatus(step: CallStep): boolean {
  return step.expect.some(({ expression: { tree } }) => {
    const names = tree ? namesRead(tree) : [];
    return names.includes('status') || names.includes('response');
  });
}

function defaultStatus(status: number, { request }: CallStep): ExpectRecord {
  const held = status >= 200 && status < 300;
  const text = 'status is 2xx';
  if (held) return { text, held, of: 'default' };
  const source = placeOf(request.line!.source);
  return {
    source,
    text,
    held,
    of: 'default',
    code: 'unexpected-status',
    message: `The status is ${status}, and 2xx was expected`,
  };
}

function judgeOne(
  { expression, because }: Expectation,
  frame: Frame,
  exchange: number,
  context: RunContext,
): ExpectRecord {
  const { source } = expression;
  const tree = expression.tree!;
  const record: ExpectRecord = {
    source: placeOf(source),
    text: source.text,
    held: false,
    of: 'call',
    ...(because === undefined ? {} : { because }),
  };
  const outcome = evaluate(tree, frame);
  if (outcome.value === true) return { ...record, held: true, ...overNone(tree, frame) };
  const seen = seenOf(partsSeen(tree, source, frame), exchange, context);
  const offenders = outcome.problem ? undefined : offendersIn(tree, source, frame);
  const items = offenders && {
    offenders: {
      ...offenders,
      first: offenders.first.map(({ number, place, parts }) => ({
        number,
        place,
        seen: seenOf(parts, exchange, context),
      })),
    },
  };
  if (outcome.problem) {
    const { code, message, advice } = outcome.problem;
    return { ...record, code, message, ...(advice ? { advice } : {}), seen };
  }
  if (outcome.value === undefined && !offenders) {
    const why = explainNothing(tree, source, frame);
    const advice = why.advice ? { advice: why.advice } : {};
    return { ...record, code: 'found-nothing', foundNothing: true, message: why.message, ...advice, seen };
  }
  if (outcome.value === false || outcome.value === undefined) {
    const message = kindsApart(tree, frame);
    return { ...record, code: 'not-held', ...(message === undefined ? {} : { message }), seen, ...items };
  }
  const message = `An expectation is true or false, and this is ${aKind(outcome.value)}`;
  return { ...record, code: 'not-a-condition', message, seen };
}

/** What to say of a comparison whose sides are of two kinds, and so never equal: `'12' is a text, 12 is a number`. */
function kindsApart(tree: Node, frame: Frame): string | undefined {
  const inner = ungrouped(tree);
  if (inner.kind !== 'binary' || !isComparison(inner.operator) || inner.operator === 'in') return undefined;
  const [left, right] = [evaluate(inner.left, frame).value, evaluate(inner.right, frame).value];
  if (left === undefined || right === undefined || kindOf(left) === kindOf(right)) return undefined;
  return `${showValue(left, 40)} is ${aKind(left)}, ${showValue(right, 40)} is ${aKind(right)}`;
}

/** Whether an expectation says something only of the items of a list that has none. */
function overNone(tree: Node, frame: Frame): { overNone?: true } {
  const inner = ungrouped(tree);
  if (inner.kind !== 'call' || inner.name !== 'all') return {};
  const list = evaluate(inner.args[0]!, frame).value;
  return isList(list) && list.length === 0 ? { overNone: true } : {};
}

function seenOf(parts: readonly Part[], exchange: number, context: RunContext): Seen[] {
  return parts.map(({ text, value, node }) => {
    const reads = readsOf(node, context.scope);
    return { text, value: toStored(maskedIfSecret(value, node, context), { exchange, expr: text }), reads };
  });
}

function maskedIfSecret(value: Maybe, tree: Parameters<typeof secretIn>[0], { secretNames }: RunContext): Maybe {
  const name = value === undefined ? undefined : secretIn(tree, secretNames);
  return name === undefined ? value : new Mask(name);
}

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
      const secret = secretIn(tree!, context.secretNames);
      const shown = secret === undefined ? outcome.value : new Mask(secret);
      if (secret !== undefined) context.secretNames.set(name, secret);
      const stored = toStored(shown, exchange === undefined ? undefined : { exchange, expr: source.text });
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
        real: outcome.value,
      });
    }
  }
  return { binds, problems };
}
