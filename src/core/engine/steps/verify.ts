import type { VerifyRule } from '../../chain/verify.ts';
import type { Frame } from '../../expression/frame.ts';
import { evaluate } from '../../expression/evaluate.ts';
import { signatureMismatch } from '../../http/callback-signature.ts';
import type { ReceivedRequest } from '../../ports.ts';
import type { ProblemRecord } from '../../journal/records.ts';
import type { Expression } from '../../schema/leaves.ts';
import { fillFault, fillText } from '../../template/fill.ts';
import { textOf } from '../../value/text.ts';
import { Bytes, DateTime, numberOf, type Value } from '../../value/value.ts';
import { aType } from '../../value/show.ts';
import { wholeOf } from '../../diagnostics/source.ts';
import { catchFillFault } from '../fill.ts';
import type { StepFrame } from '../frame.ts';
import { problemAt } from '../places.ts';
import { resolversFor } from '../resolvers.ts';

/** Why a received request is not known to be from whom it says; nothing when its signature fits. */
export function verified(
  rule: VerifyRule,
  { headers, body }: ReceivedRequest,
  frame: Frame,
  context: StepFrame,
): ProblemRecord | undefined {
  const { header, time, toleranceMs } = rule;
  const resolver = resolversFor(context).real;
  const outcome = catchFillFault(() => {
    const timeMs = time && instantOf(time, frame);
    const signedAt = timeMs === undefined ? undefined : { timeMs, nowMs: context.runHost.nowMs(), toleranceMs };
    return signatureMismatch(
      {
        ...rule,
        keys: rule.keys.map((key) => fillText(key, resolver)),
        header: header.text,
        message: messageOf(rule, body, frame),
        signedAt,
      },
      headers,
      body,
    );
  });
  if ('problem' in outcome) return outcome.problem;
  const mismatch = outcome.value;
  return mismatch && problemAt(header, 'callback-not-verified', mismatch.message, mismatch.advice);
}

/** The exact bytes that are signed. */
function messageOf({ message }: VerifyRule, body: Uint8Array, frame: Frame): Uint8Array {
  if (message.length === 0) return body;
  const pieces = message.map((each) => bytesOf(each, valueOf(each, frame)));
  return Uint8Array.from(pieces.flatMap((piece) => [...piece]));
}

function bytesOf(expression: Expression, value: Value): Uint8Array {
  if (value instanceof Bytes) return value.data;
  const text = textOf(value);
  if (typeof text === 'string') return new TextEncoder().encode(text);
  return wrong(expression, `This is ${text.what}, which cannot be signed`);
}

function valueOf(expression: Expression, frame: Frame): Value {
  const { value, problem } = expression.tree ? evaluate(expression.tree, frame) : {};
  if (problem) fillFault(expression.source, problem);
  if (value !== undefined) return value;
  return wrong(expression, `${expression.source.text} found nothing in the request`);
}

/** Milliseconds since 1970: numbers below 10^11 are seconds, as the year 5138 is far. */
function instantOf(expression: Expression, frame: Frame): number {
  const value = valueOf(expression, frame);
  if (value instanceof DateTime) return value.epochMilliseconds;
  const text = typeof value === 'string' ? value.trim() : '';
  const number = /^\d+(?:\.\d+)?$/.test(text) ? Number(text) : Number(numberOf(value) ?? NaN);
  if (!Number.isNaN(number)) return number < 1e11 ? number * 1000 : number;
  const parsed = Date.parse(text);
  return Number.isNaN(parsed) ? wrong(expression, `time needs a point in time, not ${aType(value)}`) : parsed;
}

function wrong({ source }: Expression, message: string): never {
  return fillFault(source, { code: 'callback-not-verified', range: wholeOf(source), message });
}
