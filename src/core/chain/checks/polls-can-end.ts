import type { Expression } from '../../schema/leaves.ts';
import { changesSomething, mayRepeat } from '../changes.ts';
import type { CallStep } from '../model.ts';
import { readsResponse } from '../reads-response.ts';
import type { Rule, RuleContext } from './rule.ts';

/** What is sent several times may be, and what is waited for can come. */
export const pollsCanEnd: Rule = (context) => ({
  call(step) {
    if (step.poll) checkPoll(step, step.poll, context);
    if (step.retry && !mayRepeat(step)) retryInVain(step, context);
    if (step.freshFor !== undefined) checkFresh(step, context);
  },
});

function checkPoll(step: CallStep, poll: NonNullable<CallStep['poll']>, { reportIn }: RuleContext): void {
  const { until, giveUpWhen, every, withinMs } = poll;
  const { name, nameSource } = step;
  const range = [0, name.length] as const;
  if (!mayRepeat(step)) {
    const message = `"${name}" is sent again for every poll, and ${step.request.line?.method ?? 'it'} is not repeatable`;
    const advice = 'Poll with a GET, or add repeatable: true if it only reads.';
    reportIn(nameSource, { code: 'poll-not-repeatable', range, message, advice });
  }
  for (const condition of [until, giveUpWhen]) {
    if (!condition?.tree || readsResponse(condition.tree)) continue;
    const message = 'This reads nothing of the response, so no poll can change it';
    const advice = 'Read $, status or another part of the response.';
    reportIn(condition.source, { code: 'poll-cannot-end', range: condition.tree.range, message, advice });
  }
  if (giveUpWhen?.tree && until.tree && plain(giveUpWhen) === plain(until)) {
    const message = 'This gives up in the state that it waits for';
    const advice = 'Give up in a state from which the goal cannot be reached.';
    reportIn(giveUpWhen.source, { code: 'contradictory-conditions', range: giveUpWhen.tree.range, message, advice });
  }
  if (withinMs >= every.firstMs) return;
  const message = `The time limit of "${name}" ends before its first pause`;
  const advice = 'Increase within, or decrease every.';
  reportIn(nameSource, { code: 'poll-too-short', range, message, advice });
}

function plain({ source }: Expression): string {
  return source.text.replace(/\s+/g, '');
}

function retryInVain({ name, nameSource, request }: CallStep, { reportIn }: RuleContext): void {
  const message = `"${name}" is not sent again once it may have arrived: ${request.line?.method ?? 'it'} is not repeatable`;
  const advice = 'Add an idempotency-key, or repeatable: true if it only reads.';
  reportIn(nameSource, { code: 'retry-in-vain', range: [0, name.length], message, advice });
}

function checkFresh(step: CallStep, { reportIn }: RuleContext): void {
  const { name, nameSource, poll, save, untilEvent } = step;
  const why = changesSomething(step)
    ? 'changes something'
    : poll
      ? 'polls'
      : save
        ? 'saves a file'
        : untilEvent
          ? 'reads a stream of events'
          : undefined;
  if (why === undefined) return;
  const message = `"${name}" ${why}, so a recorded response cannot replace it`;
  reportIn(nameSource, {
    code: 'fresh-but-changing',
    range: [0, name.length],
    message,
    advice: 'Remove fresh-for.',
  });
}
