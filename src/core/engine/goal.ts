import { insideOf, type Chain, type EachStep, type RepeatStep, type Step } from '../chain/model.ts';
import type { Source } from '../diagnostics/source.ts';

/** The loops around a call, the outermost first, in used chains too; nothing when no such call is there. */
export function loopsAround(
  steps: readonly Step[],
  call: string,
  chainAt: (file: Source) => Chain | undefined,
): readonly (EachStep | RepeatStep)[] | undefined {
  for (const step of steps) {
    if (step.kind === 'call' && step.name === call) return [];
    const inside = step.kind === 'chain' ? [chainAt(step.file)?.steps ?? []] : insideOf(step);
    for (const list of inside) {
      const loops = loopsAround(list, call, chainAt);
      if (loops) return step.kind === 'each' || step.kind === 'repeat' ? [step, ...loops] : loops;
    }
  }
  return undefined;
}
