import type { Bind } from '../../journal/records.ts';
import type { Given } from '../../chain/inputs.ts';
import type { ChainStep } from '../../chain/model.ts';
import type { Frame } from '../../expression/frame.ts';
import type { Node } from '../../expression/model.ts';
import { joined, type Secrecy } from '../../expression/secrecy.ts';
import { eachPath } from '../../expression/names-read.ts';
import { insideOfStep } from '../../journal/address.ts';
import { fillValue } from '../../template/fill.ts';
import { entriesOf } from '../../schema/whole-object.ts';
import type { Value } from '../../value/value.ts';
import { bindAll, type Bound } from '../bind.ts';
import type { StepFrame } from '../frame.ts';
import { plainFrame } from '../frames.ts';
import { runInner, type InnerInputs } from '../inner-chain.ts';
import { outcomeOf } from '../outcome.ts';
import { problemAt, problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { secretInTemplate } from '../../template/secrecy.ts';
import { SecretNames } from '../secret-names.ts';
import type { StepRunner } from './definition.ts';

/** Runs another chain, and keeps of what it gives what the step says. */
export const runChainStep: StepRunner<ChainStep> = async (step, context, end) => {
  const { address, key, run } = context;
  const used = run.chainAt(step.file);
  if (!used)
    return end({ problem: problemAt(step.file, 'file-not-found', `The chain ${step.file.text} does not exist`) });
  const given = inputsOf(step, context);
  run.recorder.record({ type: 'opened', step: address, key, kind: 'chain', text: `chain ${used.name}` });
  const inner = await runInner(used, given, { inside: insideOfStep(address), keyPrefix: `${key}/` }, context);
  if ('diagnostics' in inner) return end({ problem: problemRecord(inner.diagnostics[0]!) });
  const { outputs, secretNames, failed, stops: _stops, halted, goesOn: _goesOn, ...total } = inner;
  // The chain around it has failed of the same.
  context.failed.push(...failed);
  const outcome = outcomeOf(inner);
  if (outcome !== 'passed' || halted) {
    end({ outcome, quiet: true });
    return { ...total, outcome, stops: true, ...(halted ? { halted } : {}) };
  }
  const kept = keepOf(step, { outputs, secretNames }, context);
  if ('problem' in kept) return { ...total, ...end(kept), exit: 1 };
  end({ ...kept, why: used.name });
  return { ...total, outcome };
};

/** What the chain takes, filled; an optional input that was not given is not passed on. */
function inputsOf({ inputs }: ChainStep, context: StepFrame): InnerInputs {
  const given = new Map<string, Given>();
  const secretNames = new Map<string, Secrecy>();
  const { real } = resolversFor(context);
  for (const input of inputs) {
    const secret = secretInTemplate(input.value, context.secretNames);
    for (const { name, value, nameRange, file } of entriesOf([input], real)) {
      const filled = fillValue(value, real);
      const source = { file, text: name, locate: () => nameRange };
      if (filled !== 'left-out') given.set(name, { value: filled.value, source });
      if (secret !== undefined) secretNames.set(name, secret);
    }
  }
  return { given, secretNames };
}

type GivenByChain = Readonly<{ outputs: ReadonlyMap<string, Value>; secretNames: ReadonlyMap<string, Secrecy> }>;

/** Each entry of `keep`, with `outputs` as what the chain gave; one that reads a secret of it is secret too. */
function keepOf(step: ChainStep, { outputs, secretNames }: GivenByChain, context: StepFrame): Bound {
  const plain = plainFrame(context);
  const object = Object.fromEntries(outputs);
  const frame: Frame = { ...plain, name: (name) => (name === 'outputs' ? object : plain.name(name)) };
  const binds: Bind[] = [];
  for (const entry of step.keep) {
    const secret = entry.value.tree && secretGiven(entry.value.tree, secretNames);
    const names = new SecretNames({ get: (name) => (name === 'outputs' ? secret : context.secretNames.get(name)) });
    const kept = bindAll([entry], frame, { ...context, secretNames: names });
    for (const [name, secrecy] of names.entries()) context.secretNames.set(name, secrecy);
    if ('problem' in kept) return kept;
    binds.push(...kept.binds);
  }
  return { binds };
}

/** Why something that an expression reads of `outputs` is secret. */
function secretGiven(tree: Node, secretNames: ReadonlyMap<string, Secrecy>): Secrecy | undefined {
  let found: Secrecy | undefined;
  eachPath(tree, (path) => {
    if (path.start.kind !== 'name' || path.start.name !== 'outputs') return;
    const selector = path.segments[0]?.selectors[0];
    if (selector?.kind === 'name') found = joined(found, secretNames.get(selector.name));
  });
  return found;
}
