import type { ProblemRecord } from '../../journal/records.ts';
import type { EachStep } from '../../chain/model.ts';
import type { EventBody } from '../../journal/events.ts';
import { aType } from '../../value/show.ts';
import { isList, isObject, piecesOf, SpilledList, type Items, type Value } from '../../value/value.ts';
import { NodeSet } from '../../value/xml.ts';
import { valueNeeded } from '../condition.ts';
import { plainFrame, readsOf } from '../frames.ts';
import type { StepFrame } from '../frame.ts';
import { itemLabels } from '../item-labels.ts';
import { Identities } from '../item-identity.ts';
import { placesOf, selectedOf } from '../loop-items.ts';
import { problemAt } from '../places.ts';
import { rowsFileAt } from '../rows-file.ts';
import { secretIn } from '../../expression/secrecy.ts';
import { ownItems } from '../slices.ts';
import type { StepRunner } from './definition.ts';

import { Loop } from './loop.ts';

/** Runs the steps once for each item of a list, at most so many items at the same time. */
export const runEach: StepRunner<EachStep> = async (step, context, end) => {
  const advice = `Write ${step.list.source.text.trim()} ?? [] for an array that may be missing.`;
  const needed = valueNeeded(step.list, plainFrame(context), advice);
  if ('problem' in needed) return end(needed);
  const list = itemsOf(needed.value);
  if (!list) return end({ problem: notAList(step, needed.value) });
  const rejects = step.rejects && rowsFileAt(step.rejects, context);
  if (rejects && 'problem' in rejects) return end(rejects);
  const loop = new Loop(step, list, context, rejects);
  const identities = identitiesOf(step, list, loop, context);
  const problem = await identities.problem(list);
  if (problem) return end({ problem });
  const places = placesOf(step, list.length, context);
  if ('problem' in places) return { ...end(places), exit: 2 };
  const ownCount =
    step.steps.length > 0 ? await ownItemsOf(list, identitiesOf(step, list, loop, context), context) : undefined;
  const selected = ownCount ?? (Array.isArray(places) ? places.length : selectedOf(list.length, context));
  context.run.recorder.record(openedBody(step, context, list.length, selected));
  await loop.run(identities, places);
  return loop.end(end);
};

function identitiesOf(step: EachStep, list: Items, loop: Loop, context: StepFrame): Identities {
  const labels = step.identifiedBy ? () => undefined : itemLabels(list);
  return new Identities(step, (item) => plainFrame(loop.frameOf(item)), printOfItems(step, loop, context), labels);
}

/** How items are printed whose identity gives something secret away. */
function printOfItems(
  step: EachStep,
  { secret }: Loop,
  { secretNames, runHost }: StepFrame,
): ((text: string) => string) | undefined {
  const names = { get: (name: string) => (name === step.name ? secret : secretNames.get(name)) };
  const known = step.identifiedBy?.tree ? secretIn(step.identifiedBy.tree, names) : secret;
  return known === undefined ? undefined : (text) => runHost.keyedHash(text);
}

/** How many items are of this slice of a divided run; nothing where all are. */
async function ownItemsOf(list: Items, identities: Identities, context: StepFrame): Promise<number | undefined> {
  const isOwn = ownItems(context);
  if (!isOwn) return undefined;
  let [count, index] = [0, 0];
  for await (const piece of piecesOf(list)) {
    for (const value of piece) if (isOwn(identities.next(index++, value))) count++;
  }
  return count;
}

function openedBody(step: EachStep, { address, key, scope }: StepFrame, total: number, selected: number): EventBody {
  return {
    type: 'opened',
    step: address,
    key,
    kind: 'each',
    text: `each ${step.head.text.trim()}`,
    total,
    ...(selected < total ? { selected } : {}),
    steps: step.steps.length,
    reads: step.list.tree ? readsOf(step.list.tree, scope) : [],
  };
}

/** The items of what a loop can go over. */
function itemsOf(value: Value): Items | undefined {
  if (value instanceof NodeSet) return [...value];
  return isList(value) || value instanceof SpilledList ? value : undefined;
}

function notAList({ list: { source } }: EachStep, value: Value): ProblemRecord {
  const text = source.text.trim();
  const advice = isObject(value) ? `To loop over its members: entries(${text}).` : undefined;
  return problemAt(source, 'not-an-array', `A loop needs an array, and ${text} is ${aType(value)}`, advice);
}
