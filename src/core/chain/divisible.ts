import { diagnosticAt, diagnosticIn, type Diagnostic, type Source } from '../diagnostics/source.ts';
import { isChanging } from '../http/methods.ts';
import { changesSomething } from './changes.ts';
import type { CallStep, Chain, Step } from './model.ts';
import { allPartsOf, insideOf } from './steps/inside.ts';

type ChainAt = (file: Source) => Chain | undefined;

/**
 * What a run cannot be divided for: each slice does what stands outside its loops, so nothing there may change something,
 * unless the step says which slice does it.
 */
export function notDivisible(chain: Chain, chainAt: ChainAt): readonly Diagnostic[] {
  const outside = [...outsideLoops(chain.steps, chainAt), ...outsideLoops(chain.cleanup, chainAt)];
  const found = outside.flatMap((step) => (step.kind === 'call' ? faultsOf(step) : []));
  if (outside.some(({ kind }) => kind === 'each')) return found;
  const message = `The chain "${chain.name}" has no loop whose items could be divided`;
  const advice =
    'With one chain, slices are parts of the items of its outermost loops. To divide several chains, name them all.';
  return [...found, diagnosticAt(chain.file, { code: 'not-divisible', range: [0, 0], message, advice })];
}

/** Steps outside of loops, the loops themselves among them, in used chains too; but for those of one slice alone. */
function outsideLoops(steps: readonly Step[], chainAt: ChainAt): readonly Step[] {
  return steps.flatMap((step): readonly Step[] => {
    if (step.once !== undefined) return [];
    if (step.kind === 'each') return [step];
    const used = allPartsOf(step).flatMap((part) => {
      const chain = part.sort === 'file' && part.of === 'chain' ? chainAt(part.source) : undefined;
      return chain ? [chain.steps, chain.cleanup] : [];
    });
    return [step, ...[...insideOf(step), ...used].flatMap((list) => outsideLoops(list, chainAt))];
  });
}

function faultsOf(call: CallStep): readonly Diagnostic[] {
  const undoLine = call.undo?.request.line;
  const undoes = undoLine !== undefined && isChanging(undoLine.method);
  const { line } = call.request;
  if (!line || !(changesSomething(call) || undoes)) return [];
  const what = changesSomething(call) ? 'changes something' : 'has an undo that changes something';
  const message = `The call "${call.name}" ${what} and stands outside of the loops, so every slice would send it`;
  const advice = 'Add once: first-slice, or once: last-slice; if the call only reads, changes: false.';
  return [diagnosticIn(line.source, { code: 'not-divisible', range: [0, line.method.length], message, advice })];
}
