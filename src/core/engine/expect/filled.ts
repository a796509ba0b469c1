import { fillText, fillValue, type Resolver } from '../../template/fill.ts';
import type { TextTemplate, ValueTemplate } from '../../template/template.ts';
import type { Value } from '../../value/value.ts';
import { catchFillFault } from '../fill.ts';
import { resolversFor } from '../resolvers.ts';
import type { Judged, Judging } from './definition.ts';

/** The value of a template in an expectation, or why it cannot be judged. */
export function filledValue(template: ValueTemplate, judging: Judging): Readonly<{ value: Value }> | Judged {
  return filledFor(judging, (resolver) => {
    const value = fillValue(template, resolver);
    return value === 'left-out' ? null : value.value;
  });
}

/** The text of a template in an expectation, such as the name of a file, or why it cannot be judged. */
export function filledText(template: TextTemplate, judging: Judging): Readonly<{ value: string }> | Judged {
  return filledFor(judging, (resolver) => fillText(template, resolver));
}

function filledFor<T>(
  { context, endpoint }: Judging,
  fill: (resolver: Resolver) => T,
): Readonly<{ value: T }> | Judged {
  const outcome = catchFillFault(() => fill(resolversFor(context, endpoint).real));
  if ('value' in outcome) return outcome;
  const { code, message, advice } = outcome.problem;
  return { passed: false, code, message, ...(advice === undefined ? {} : { advice }) };
}

export function isJudged(outcome: object): outcome is Judged {
  return 'passed' in outcome;
}
