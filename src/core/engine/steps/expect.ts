import type { ExpectRecord } from '../../journal/records.ts';
import type { ExpectStep } from '../../chain/model.ts';
import type { Expectation } from '../../http/expectation.ts';
import { failedExpectation } from '../call/problems.ts';
import { valueNeeded } from '../condition.ts';
import type { StepFrame } from '../frame.ts';
import { endpointOfChain, plainFrame } from '../frames.ts';
import { judgeEntry, recordOf } from '../judge.ts';
import type { StepRunner } from './definition.ts';

/** Judges what is kept, without a response. Every entry is tried. */
export const runExpect: StepRunner<ExpectStep> = async ({ expect }, context, end) => {
  const expects = expect.map((each) => judged(each, context));
  const passed = expects.filter((each) => each.passed).length;
  const isFailed = passed < expects.length;
  const ended = end({ expects, ...(isFailed ? { problem: failedExpectation(expects) } : {}) });
  return { ...ended, expects: expects.length, passed };
};

function judged(expectation: Expectation, context: StepFrame): ExpectRecord {
  const endpoint = endpointOfChain(context);
  const frame = plainFrame(context);
  const judging = { frame, exchange: undefined, endpoint, context };
  if (expectation.form === 'that' || !expectation.of) return judgeEntry(expectation, judging);
  const needed = valueNeeded(expectation.of, frame, 'Write x ?? null for what may be missing.');
  if ('value' in needed) return judgeEntry(expectation, { ...judging, frame: { ...frame, body: needed.value } });
  const { code, message, advice } = needed.problem;
  return recordOf(expectation, { passed: false, code, message, ...(advice === undefined ? {} : { advice }) });
}
