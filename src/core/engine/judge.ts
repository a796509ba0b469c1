import { diagnosticIn } from '../diagnostics/source.ts';
import type { CallStep, Expectation } from '../chain/model.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import type { Bind, ExpectRecord, ProblemRecord, Seen } from '../journal/events.ts';
import { toStored } from '../journal/stored.ts';
import { kindOf, Mask, type Maybe, type Value } from '../value/value.ts';
import { namesRead, readsOf, type RunContext } from './context.ts';
import { explainNothing, partsSeen } from './explain.ts';
import { placeOf, problemRecord } from './places.ts';
import { secretIn } from '../expression/secrecy.ts';

/** Judges a response by every expectation: the default status first, then those of the call. All are tried. */
export function judge(step: CallStep, frame: Frame, status: number, context: RunContext): ExpectRecord[] {
  const own = step.expect.map((expectation) => judgeOne(expectation, frame, context));
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

function judgeOne({ expression }: Expectation, frame: Frame, context: RunContext): ExpectRecord {
  const { source, tree } = expression;
  const record = { source: placeOf(source), text: source.text, of: 'call' as const };
  const outcome = evaluate(tree!, frame);
  if (outcome.value === true) return { ...record, held: true };
  const seen = partsSeen(tree!, source, frame).map((part): Seen => {
    const reads = readsOf(part.node, context.scope);
    return { text: part.text, value: toStored(maskedIfSecret(part.value, part.node, context)), reads };
  });
  if (outcome.problem) {
    const { code, message, advice } = outcome.problem;
    return { ...record, held: false, code, message, ...(advice ? { advice } : {}), seen };
  }
  if (outcome.value === undefined) {
    const why = explainNothing(tree!, source, frame);
    const advice = why.advice ? { advice: why.advice } : {};
    return { ...record, held: false, code: 'found-nothing', foundNothing: true, message: why.message, ...advice, seen };
  }
  if (outcome.value === false) return { ...record, held: false, code: 'not-held', seen };
  const message = `An expectation is true or false, and this is a ${kindOf(outcome.value)}`;
  return { ...record, held: false, code: 'not-a-condition', message, seen };
}

function maskedIfSecret(value: Maybe, tree: Parameters<typeof secretIn>[0], { secretNames }: RunContext): Maybe {
  const name = value === undefined ? undefined : secretIn(tree, secretNames);
  return name === undefined ? value : new Mask(name);
}

/** What a call keeps, or why it cannot: every entry is tried, in order, and sees those before it. */
export type Kept = Readonly<{ binds: readonly (Bind & { real: Value })[]; problems: readonly ProblemRecord[] }>;

export function keep(step: CallStep, exchange: number, address: string, frame: Frame, context: RunContext): Kept {
  const binds: (Bind & { real: Value })[] = [];
  const problems: ProblemRecord[] = [];
  const inner: Frame = {
    ...frame,
    name: (name) => {
      const earlier = binds.find((bind) => bind.name === name);
      return earlier ? earlier.real : frame.name(name);
    },
  };
  for (const { name, value: expression } of step.keep) {
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
      const stored = toStored(shown, { exchange, expr: source.text });
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
