import type { CallStep } from '../../chain/model.ts';
import type { HoleRecord } from '../../journal/events.ts';
import { holesOf as holesIn, type Hole, type ValueTemplate } from '../../template/template.ts';
import { targetHoles } from '../../template/request-line.ts';
import { readsOf, type RunContext } from '../context.ts';

type PlacedHole = Readonly<{ place: string; text: string; hole: Hole }>;

const known = new WeakMap<CallStep, readonly PlacedHole[]>();

/** The holes of a call's request, each with the place where it stands and what it reads. */
export function holesOf(step: CallStep, { scope }: RunContext): readonly HoleRecord[] {
  let placed = known.get(step);
  if (!placed) known.set(step, (placed = placedHoles(step)));
  return placed.map(({ place, text, hole }) => ({ place, text, reads: readsOf(hole.node, scope) }));
}

function placedHoles({ request }: CallStep): readonly PlacedHole[] {
  const at = (place: string, holes: readonly Hole[]): readonly PlacedHole[] =>
    holes.map((hole) => ({ place, hole, text: hole.source.text.slice(...hole.node.range) }));
  const named = (what: string, entries: readonly Readonly<{ name: string; value: ValueTemplate }>[]) =>
    entries.flatMap(({ name, value }) => at(`${what} ${name}`, holesIn(value)));
  return [
    ...at('target', request.line ? targetHoles(request.line.target) : []),
    ...named('query', request.query),
    ...named('header', request.headers),
    ...at(request.body?.key ?? '', (request.body?.texts ?? []).flatMap(holesIn)),
  ];
}
