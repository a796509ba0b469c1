import type { ProblemRecord } from '../journal/records.ts';
import type { EachStep } from '../chain/model.ts';
import { itemNumbers } from '../journal/address.ts';
import { counted } from '../value/show.ts';
import { piecesOf, type Items, type Value } from '../value/value.ts';
import type { StepFrame } from './frame.ts';
import { loopsAround } from './goal.ts';
import type { Identity, ItemAt } from './item-identity.ts';
import { problemAt } from './places.ts';

/**
 * The places of the items that run, in order: all, in an outermost loop the part that the run is told, or the one for which
 * alone a call is wanted.
 */
export function placesOf(
  step: EachStep,
  length: number,
  context: StepFrame,
): Iterable<number> | Readonly<{ problem: ProblemRecord }> {
  const {
    run: {
      chainAt,
      settings: { goal },
    },
  } = context;
  const isAround = goal?.isAlone && loopsAround(step.steps, goal.call, chainAt);
  const wanted = isAround ? goal.items[itemNumbers(context.address).length] : undefined;
  if (wanted === undefined) return part(length, context);
  return wanted <= length ? [wanted - 1] : { problem: noSuchItem(step, wanted, length) };
}

/** How many of the items of a loop run. */
export function selectedOf(
  length: number,
  {
    run: {
      settings: { part },
    },
    item,
  }: StepFrame,
): number {
  return Math.min(!part || item ? length : 'first' in part ? part.first : part.sample, length);
}

function* part(length: number, context: StepFrame): Iterable<number> {
  const {
    run: {
      settings: { part },
    },
    item,
  } = context;
  const count = selectedOf(length, context);
  const step = part && !item && 'sample' in part ? length / count : 1;
  for (let k = 0; k < count; k++) yield step === 1 ? k : Math.floor((k * length) / count);
}

function noSuchItem({ list: { source } }: EachStep, wanted: number, length: number): ProblemRecord {
  const message = `There is no item ${wanted}: ${source.text.trim()} has ${counted(length, 'item')}`;
  return problemAt(source, 'invalid-option', message);
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
      const identity = identify(index, value);
      if (place.value === index) {
        yield { index, value, ...identity };
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
