import { wholeOf } from '../../diagnostics/source.ts';
import type { Rule } from './rule.ts';

/** An expectation has something to look at: a response, or the value that it names; and something that it asks of it. */
export const expectationsLookAtSomething: Rule = ({ reportIn }) => ({
  expectation(expectation, { response }) {
    if (expectation.form === 'that') return;
    const { form, of, source } = expectation;
    const at = { range: wholeOf(source) };
    if (response && of)
      reportIn(of.source, {
        code: 'unknown-key',
        range: wholeOf(of.source),
        message: 'of is for an expect step: in a call the body of the response is judged',
        advice: 'Remove it, or move the expectation into a step of its own: - expect: [...].',
      });
    if (!response && !of)
      reportIn(source, {
        ...at,
        code: 'key-missing',
        message: `${form} does not say which value it judges`,
        advice: `Add of: the name of a kept value.`,
      });
    const value = form === 'includes' ? expectation.value : undefined;
    const isEmpty =
      (value?.kind === 'object' && value.members.length === 0) || (value?.kind === 'list' && value.items.length === 0);
    if (isEmpty)
      reportIn(source, {
        ...at,
        code: 'nothing-to-check',
        message: `includes of nothing is true of everything`,
        advice: 'Write what it must include.',
      });
  },
});
