import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import { secretIn, type Secrecy } from '../expression/secrecy.ts';
import type { Value } from '../value/value.ts';
import { plainFrame, runValue } from './frames.ts';
import type { StepFrame } from './frame.ts';

/** What a chain gives, and which of it is secret. */
type ChainOutputs = Readonly<{ real: ReadonlyMap<string, Value>; secrets: ReadonlyMap<string, Secrecy> }>;

/** Evaluates what a chain gives; an entry that is nothing, or whose names were never bound, is left out. */
export function evaluateOutputs(context: StepFrame, outcome: 'passed' | 'failed'): ChainOutputs {
  const real = new Map<string, Value>();
  const secrets = new Map<string, Secrecy>();
  const plain = plainFrame(context);
  const run = runValue(context, outcome);
  const frame: Frame = { ...plain, name: (name) => (name === 'run' ? run : plain.name(name)) };
  for (const { name, value: expression } of context.chain.outputs) {
    const { value } = evaluate(expression.tree!, frame);
    if (value === undefined) continue;
    const secret = secretIn(expression.tree!, context.secretNames);
    if (secret !== undefined) secrets.set(name, secret);
    real.set(name, value);
  }
  return { real, secrets };
}
