import type { Source } from '../../diagnostics/source.ts';
import { onceOf } from '../../once.ts';
import type { CallStep, Chain, Step } from '../model.ts';
import type { BindingPart, Part } from '../parts.ts';
import type { StepKind } from './definition.ts';
import { stepKinds } from './list.ts';

const byKey = new Map<Step['kind'], StepKind>();

/** The kind of a step; none of a broken one. */
function kindOf({ kind }: Step): StepKind | undefined {
  if (byKey.size === 0) for (const each of stepKinds) byKey.set(each.key, each);
  return byKey.get(kind);
}

/** All that a step holds beside its `when`, in the order in which it comes into play. */
export const partsOf = onceOf((step: Step): readonly Part[] => kindOf(step)?.parts(step as never) ?? []);

/** The same with the parts that parts hold, each behind the one that holds it. */
export const allPartsOf = onceOf((step: Step): readonly Part[] => {
  const all: Part[] = [];
  const add = (part: Part): void => {
    all.push(part);
    if ('parts' in part) part.parts.forEach(add);
  };
  partsOf(step).forEach(add);
  return all;
});

/** The names that a step binds for the steps behind it. */
export function bindingsOf(step: Step): readonly BindingPart[] {
  return partsOf(step)
    .flatMap((part) => (part.sort === 'answers' ? part.parts : [part]))
    .filter((part) => part.sort === 'binding');
}

/** The lists of steps that a part holds itself. */
export function listsOf(part: Part): readonly (readonly Step[])[] {
  switch (part.sort) {
    case 'steps':
      return [part.steps];
    case 'arms':
      return part.arms;
    case 'answers':
      return part.arms.map(({ steps }) => steps);
    default:
      return [];
  }
}

/** The lists of steps inside a step. */
export const insideOf = onceOf((step: Step): readonly (readonly Step[])[] => allPartsOf(step).flatMap(listsOf));

/** Every step of a list, those inside others too, in the order of the file. */
export const allSteps = onceOf((steps: readonly Step[]): readonly Step[] =>
  steps.flatMap((step) => [step, ...insideOf(step).flatMap((inside) => allSteps(inside))]),
);

/** Every step of a chain, those of its cleanup too. */
export function stepsOf(chain: Chain): readonly Step[] {
  return [...allSteps(chain.steps), ...allSteps(chain.cleanup)];
}

/** Every call of a chain. */
export function callsOf(chain: Chain): readonly CallStep[] {
  return stepsOf(chain).filter((step) => step.kind === 'call');
}

/** A text of a step that shows where it stands. */
export function sourceOf(step: Step): Source | undefined {
  const [first] = insideOf(step).flat();
  return kindOf(step)?.sourceOf?.(step as never) ?? (first && sourceOf(first));
}

/** A call by its name; any other by its kind, with its own name or file behind it: `each:vessel`, `chain:berth.chain.yaml`. */
export function plainKeyOf(step: Step): string {
  if (step.kind === 'call') return step.name;
  const name = kindOf(step)?.nameOf?.(step as never);
  return name === undefined ? step.kind : `${step.kind}:${name}`;
}
