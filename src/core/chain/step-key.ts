import type { Chain, Step } from './model.ts';
import { plainKeyOf, stepsOf } from './steps/inside.ts';

const known = new WeakMap<Chain, ReadonlyMap<Step, string>>();

/**
 * What a step is known by in records, whatever steps are put before it later: a call by its name, any other by its kind, its
 * own name or file, and its order among equals, as in `each:vessel` or `chain:berth.chain.yaml~2`.
 */
export function stepKey(chain: Chain, step: Step): string {
  if (step.kind === 'call') return step.name;
  let keys = known.get(chain);
  if (!keys) known.set(chain, (keys = keysOf(chain)));
  return keys.get(step) ?? plainKeyOf(step);
}

function keysOf(chain: Chain): ReadonlyMap<Step, string> {
  const keys = new Map<Step, string>();
  const counts = new Map<string, number>();
  for (const step of stepsOf(chain)) {
    const plain = plainKeyOf(step);
    const count = (counts.get(plain) ?? 0) + 1;
    counts.set(plain, count);
    keys.set(step, count === 1 ? plain : `${plain}~${count}`);
  }
  return keys;
}
