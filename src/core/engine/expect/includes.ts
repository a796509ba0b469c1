import { differences } from '../../value/difference.ts';
import { filledValue, isJudged } from './filled.ts';
import { judgedWords, noBody, placesOf } from './places.ts';
import type { Judge } from './definition.ts';

/** The body contains at least a value. */
export const judgeIncludes: Judge<'includes'> = ({ value: template, of }, judging) => {
  const wanted = filledValue(template, judging);
  if (isJudged(wanted)) return wanted;
  const { body } = judging.frame;
  if (body === undefined) return noBody;
  const found = differences(wanted.value, body, { atLeast: true });
  if (found.length === 0) return { passed: true };
  return {
    passed: false,
    code: 'expectation-false',
    message: `${judgedWords(of)} does not include the expected value`,
    ...placesOf(found),
  };
};
