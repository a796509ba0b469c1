import type { Chain, EachStep, RepeatStep, Step } from '../chain/model.ts';
import { allPartsOf, insideOf } from '../chain/steps/inside.ts';
import type { Source } from '../diagnostics/source.ts';

/** The loops around a call, the outermost first, in used chains too; nothing when no such call is there. */
export function loopsAround(
  steps: readonly Step[],
  call: string,
  chainAt: (file: Source) => Chain | undefined,
): readonly (EachStep | RepeatStep)[] | undefined {
  for (const step of steps) {
    if (step.kind === 'call' && step.name === call) return [];
    const used = allPartsOf(step).flatMap((part) =>
      part.sort === 'file' && part.of === 'chain' ? [chainAt(part.source)?.steps ?? []] : [],
    );
    for (const list of [...insideOf(step), ...used]) {
      const loops = loopsAround(list, call, chainAt);
      if (loops) return step.kind === 'each' || step.kind === 'repeat' ? [step, ...loops] : loops;
    }
  }
  return undefined;
}
