import type { EachStep } from '../chain/model.ts';
import { diagnosticIn, wholeOf } from '../diagnostics/source.ts';
import type { ProblemRecord } from '../journal/events.ts';
import { counted } from '../value/show.ts';
import { piecesOf, type Items, type Value } from '../value/value.ts';
import type { RunContext } from './context.ts';
import { loopsAround } from './goal.ts';
import type { Identity } from './item-identity.ts';
import { problemRecord } from './places.ts';

/** One item at its place in the list. */
export type ItemAt = Readonly<{ index: number; value: Value; id: string; label?: string }>;

/**
 * The places of the items that run, in order: all, in an outermost loop the part that the run is told, or the one for which
 * alone a call is wanted.
 */
export function placesOf(
  step: EachStep,
  address: string,
  length: number,
  context: RunContext,
): Iterable<number> | Readonly<{ problem: ProblemRecord }> {
  const { goal, chainAt } = context;
  const isAround = goal?.isAlone && loopsAround(step.steps, goal.call, chainAt);
  const wanted = isAround ? goal.items[(address.match(/#/g) ?? []).length] : undefined;
  if (wanted === undefined) return part(length, context);
  return wanted <= length ? [wanted - 1] : { problem: noSuchItem(step, wanted, length) };
}

/** How many of the items of a loop run. */
export function selectedOf(length: number, { part, item }: RunContext): number {
  return Math.min(!part || item ? length : 'first' in part ? part.first : part.sample, length);
}

function* part(length: number, context: RunContext): Iterable<number> {
  const { part, item } = context;
  const count = selectedOf(length, context);
  const step = part && !item && 'sample' in part ? length / count : 1;
  for (let k = 0; k < count; k++) yield step === 1 ? k : Math.floor((k * length) / count);
}

function noSuchItem({ list }: EachStep, wanted: number, length: number): ProblemRecord {
  const { source } = list;
  const message = `There is no item ${wanted}: ${source.text.trim()} has ${counted(length, 'item')}`;
  return problemRecord(diagnosticIn(source, { code: 'invalid-option', range: wholeOf(source), message }));
}

/** The items at some places, with their identities: piece by piece of the list. */
export async function* itemsAt(
  list: Items,
  places: Iterable<number>,
  identify: (index: number, value: Value) => Identity,
): AsyncGenerator<Iterable<ItemAt>> {
  const wanted = places[Symbol.iterator]();
  let place = wanted.next();
  let index = 0;
  const itemsOf = function* (piece: readonly Value[]): Iterable<ItemAt> {
    for (const value of piece) {
      if (place.done) return;
      const { id, label } = identify(index, value);
      if (place.value === index) {
        yield label === undefined ? { index, value, id } : { index, value, id, label };
        place = wanted.next();
      }
      index++;
    }
  };
  for await (const piece of piecesOf(list)) {
    if (place.done) return;
    yield itemsOf(piece);
  }
}
