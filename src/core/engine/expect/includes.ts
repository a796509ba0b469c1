import { writtenPath } from '../../path/normalized.ts';
import { FillFault, fillValue } from '../../template/fill.ts';
import { differences } from '../../value/difference.ts';
import type { Value } from '../../value/value.ts';
import type { ValueTemplate } from '../../template/template.ts';
import { resolversFor } from '../resolvers.ts';
import { noBody, placesOf } from './places.ts';
import type { Judge, Judged, Judging } from './definition.ts';

/** The body contains at least a value. */
export const judgeIncludes: Judge<'includes'> = ({ value: template }, judging) => {
  const wanted = filled(template, judging);
  if (isJudged(wanted)) return wanted;
  const { body } = judging.frame;
  if (body === undefined) return noBody;
  const found = differences(wanted.value, body, { atLeast: true });
  if (found.length === 0) return { held: true };
  const places = found.map(({ keys, text }) => ({ path: writtenPath(keys, '$'), text }));
  return { held: false, code: 'not-held', message: 'The body does not include it', ...placesOf(places) };
};

/** The value of a template in an expectation, or why it cannot be judged. */
export function filled(template: ValueTemplate, { context, endpoint }: Judging): Readonly<{ value: Value }> | Judged {
  try {
    const value = fillValue(template, resolversFor(context, endpoint).real);
    return { value: value === 'left-out' ? null : value.value };
  } catch (error) {
    if (!(error instanceof FillFault)) throw error;
    const { code, message, advice } = error.diagnostic;
    return { held: false, code, message, ...(advice === undefined ? {} : { advice }) };
  }
}

export function isJudged(outcome: object): outcome is Judged {
  return 'held' in outcome;
}
