import { writtenPath } from '../../path/normalized.ts';
import type { Expression } from '../../schema/leaves.ts';
import type { Judged } from './definition.ts';

/** Places of a body that are told, at most. */
const MAX_PLACES = 50;

/** A place of a body where it is not as expected, and what is wrong there. */
type BodyPlace = Readonly<{ keys: readonly (string | number)[]; text: string }>;

/** Places as they are recorded: how many, and the first of them by path. */
export function placesOf(places: readonly BodyPlace[]): Pick<Judged, 'places'> {
  const first = places.slice(0, MAX_PLACES).map(({ keys, text }) => ({ path: writtenPath(keys), text }));
  return { places: { count: places.length, first } };
}

/** What is judged, at the beginning of a message. */
export const judgedWords = (of: Expression | undefined): string => (of ? of.source.text.trim() : 'The body');

export const noBody: Judged = {
  passed: false,
  code: 'found-nothing',
  foundNothing: true,
  message: 'The response has no body',
};
