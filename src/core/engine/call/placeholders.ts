import type { PlaceholderRecord } from '../../journal/records.ts';
import type { CallStep } from '../../chain/model.ts';
import { placeholdersOfPart, requestTexts } from '../../chain/parts.ts';
import type { Placeholder } from '../../template/template.ts';
import { readsOf } from '../frames.ts';
import type { StepFrame } from '../frame.ts';

type LocatedPlaceholder = Readonly<{ place: string; text: string; placeholder: Placeholder }>;

const known = new WeakMap<CallStep, readonly LocatedPlaceholder[]>();

/** The placeholders of a call's request, each with the place where it stands and what it reads. */
export function placeholdersOf(step: CallStep, { scope }: StepFrame): readonly PlaceholderRecord[] {
  let placed = known.get(step);
  if (!placed) known.set(step, (placed = locatedPlaceholders(step)));
  return placed.map(({ place, text, placeholder }) => ({ place, text, reads: readsOf(placeholder.node, scope) }));
}

function locatedPlaceholders({ request }: CallStep): readonly LocatedPlaceholder[] {
  return requestTexts(request).flatMap(({ place, part }) =>
    placeholdersOfPart(part).map((placeholder) => ({
      place,
      placeholder,
      text: placeholder.source.text.slice(...placeholder.node.range),
    })),
  );
}
