import type { Given } from '../../chain/inputs.ts';
import type { ChainStep } from '../../chain/model.ts';
import { stepKey } from '../../chain/step-key.ts';
import { diagnosticIn, wholeOf } from '../../diagnostics/source.ts';
import type { Frame } from '../../expression/frame.ts';
import type { Node } from '../../expression/model.ts';
import { eachPath } from '../../expression/names-read.ts';
import type { Bind, ProblemRecord } from '../../journal/events.ts';
import { fillValue } from '../../template/fill.ts';
import type { Value } from '../../value/value.ts';
import { bindAll } from '../bind.ts';
import { plainFrame, type RunContext } from '../context.ts';
import { filling } from '../fill.ts';
import { runInner, type InnerInputs } from '../inner-chain.ts';
import { problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { secretInTemplate } from '../secrecy.ts';
import { SecretNames } from '../secret-names.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Runs another chain, and keeps of what it gives what the step says. */
export const runChainStep: StepRunner<ChainStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const used = context.chainAt(step.file);
  if (!used) {
    const problem = {
      code: 'file-not-found' as const,
      range: wholeOf(step.file),
      message: `The chain ${step.file.text} does not exist`,
    };
    return { ...end({ problem: problemRecord(diagnosticIn(step.file, problem)) }), stops: true };
  }
  const given = inputsOf(step, context);
  if ('problem' in given) return { ...end({ problem: given.problem }), stops: true };
  const number = address.slice(0, address.indexOf('/'));
  context.recorder.record({ type: 'opened', step: address, key: 'chain', kind: 'chain', text: `chain ${used.name}` });
  const inner = await runInner(used, given, `${number}.`, context, stepKey(context.chain, step));
  if ('diagnostics' in inner) return { ...end({ problem: problemRecord(inner.diagnostics[0]!) }), stops: true };
  const { outputs, secretNames, failed, stops: _stops, halted, goesOn: _goesOn, ...total } = inner;
  // The chain around it has failed of the same.
  context.failed.push(...failed);
  const isCut = total.exit === 130 || (halted && total.exit === 0);
  const outcome = isCut ? 'cut' : total.exit === 0 ? 'passed' : 'failed';
  if (total.exit !== 0 || halted) {
    end({ outcome, quiet: true });
    return { ...total, outcome, stops: true, ...(halted ? { halted } : {}) };
  }
  const { binds, problem } = keepOf(step, address, { outputs, secretNames }, context);
  if (problem) return { ...total, ...end({ problem }), exit: 1, stops: true };
  for (const { name, real } of binds) context.scope.bind(name, real, address);
  end({ binds: binds.map(({ real: _real, ...bind }) => bind), why: used.name });
  return { ...total, outcome: 'passed' };
};

/** What the chain takes, filled; an optional input that was not given is not passed on. */
function inputsOf({ inputs }: ChainStep, context: RunContext): InnerInputs | Readonly<{ problem: ProblemRecord }> {
  const given = new Map<string, Given>();
  const secretNames = new Map<string, string>();
  const { real } = resolversFor(context);
  for (const { name, value, nameRange, file } of inputs) {
    const filled = filling(() => fillValue(value, real));
    if ('diagnostic' in filled) return { problem: problemRecord(filled.diagnostic) };
    const source = { file, text: name, locate: () => nameRange };
    if (filled.value !== 'left-out') given.set(name, { value: filled.value.value, source });
    const secret = secretInTemplate(value, context.secretNames);
    if (secret !== undefined) secretNames.set(name, secret);
  }
  return { given, secretNames };
}

type GivenByChain = Readonly<{ outputs: ReadonlyMap<string, Value>; secretNames: ReadonlyMap<string, string> }>;
type Kept = Readonly<{ binds: readonly (Bind & { real: Value })[]; problem?: ProblemRecord }>;

/** Each entry of `keep`, with `gives` as what the chain gave; one that reads a secret of it is secret too. */
function keepOf(step: ChainStep, address: string, { outputs, secretNames }: GivenByChain, context: RunContext): Kept {
  const plain = plainFrame(context);
  const object = Object.fromEntries(outputs);
  const frame: Frame = { ...plain, name: (name) => (name === 'outputs' ? object : plain.name(name)) };
  const binds: (Bind & { real: Value })[] = [];
  for (const entry of step.keep) {
    const secret = entry.value.tree && secretGiven(entry.value.tree, secretNames);
    const names = new SecretNames({ get: (name) => (name === 'outputs' ? secret : context.secretNames.get(name)) });
    const kept = bindAll([entry], undefined, address, frame, { ...context, secretNames: names });
    for (const [name, masked] of names.entries()) context.secretNames.set(name, masked);
    if (kept.problems[0]) return { binds: [], problem: kept.problems[0] };
    binds.push(...kept.binds);
  }
  return { binds };
}

/** The name under which something that an expression reads of `gives` is secret. */
function secretGiven(tree: Node, secretNames: ReadonlyMap<string, string>): string | undefined {
  let found: string | undefined;
  eachPath(tree, (path) => {
    if (path.start.kind !== 'name' || path.start.name !== 'outputs') return;
    const selector = path.segments[0]?.selectors[0];
    if (selector?.kind === 'name') found ??= secretNames.get(selector.name);
  });
  return found;
}
