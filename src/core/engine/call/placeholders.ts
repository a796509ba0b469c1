import type { CallStep } from '../../chain/model.ts';
import type { PlaceholderRecord } from '../../journal/events.ts';
import { placeholdersOf as placeholdersIn, type Placeholder, type ValueTemplate } from '../../template/template.ts';
import { targetPlaceholders } from '../../template/request-line.ts';
import { readsOf, type RunContext } from '../context.ts';

type LocatedPlaceholder = Readonly<{ place: string; text: string; placeholder: Placeholder }>;

const known = new WeakMap<CallStep, readonly LocatedPlaceholder[]>();

/** The placeholders of a call's request, each with the place where it stands and what it reads. */
export function placeholdersOf(step: CallStep, { scope }: RunContext): readonly PlaceholderRecord[] {
  let placed = known.get(step);
  if (!placed) known.set(step, (placed = locatedPlaceholders(step)));
  return placed.map(({ place, text, placeholder }) => ({ place, text, reads: readsOf(placeholder.node, scope) }));
}

function locatedPlaceholders({ request }: CallStep): readonly LocatedPlaceholder[] {
  const at = (place: string, placeholders: readonly Placeholder[]): readonly LocatedPlaceholder[] =>
    placeholders.map((placeholder) => ({
      place,
      placeholder,
      text: placeholder.source.text.slice(...placeholder.node.range),
    }));
  const named = (what: string, entries: readonly Readonly<{ name: string; value: ValueTemplate }>[]) =>
    entries.flatMap(({ name, value }) => at(`${what} ${name}`, placeholdersIn(value)));
  return [
    ...at('target', request.line ? targetPlaceholders(request.line.target) : []),
    ...named('query', request.query),
    ...named('header', request.headers),
    ...at(request.body?.key ?? '', (request.body?.texts ?? []).flatMap(placeholdersIn)),
  ];
}
