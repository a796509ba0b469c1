import type { Read } from '../journal/records.ts';
import { secrecyOfInput } from '../chain/input-secrecy.ts';
import { RESPONSE_NAMES } from '../chain/names.ts';
import type { Frame } from '../expression/frame.ts';
import { frameOf } from '../expression/frame.ts';
import type { Node } from '../expression/model.ts';
import type { Secrecy } from '../expression/secrecy.ts';
import { namesRead } from '../expression/names-read.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { Maybe, ObjectValue } from '../value/value.ts';
import type { StepFrame } from './frame.ts';
import { StepHost } from './host.ts';
import { ReexecutionFlag } from './reexecution-flag.ts';
import type { ResponseView } from './response-names.ts';
import { Scope } from './scope.ts';
import { SecretNames } from './secret-names.ts';

/** The frame of a chain at its start: its inputs in a scope of its own, those that are secret known as such. */
export function chainFrame(
  outer: Omit<StepFrame, 'scope' | 'secretNames' | 'host' | 'failed' | 'redone' | 'address' | 'key'> &
    Readonly<{ redone?: ReexecutionFlag }>,
  inputs: ReadonlyMap<string, Maybe>,
  secretInputs: ReadonlyMap<string, Secrecy>,
): StepFrame {
  const { chain, runHost } = outer;
  const scope = new Scope();
  for (const [name, value] of inputs) scope.bind(name, value);
  const secretNames = new SecretNames();
  for (const input of chain.inputs) secretNames.set(input.name, secrecyOfInput(input, secretNames));
  for (const [name, secrecy] of secretInputs) secretNames.set(name, secrecy);
  return {
    ...outer,
    scope,
    secretNames,
    address: '',
    key: '',
    host: new StepHost(runHost, 'outputs'),
    failed: [],
    redone: new ReexecutionFlag(outer.redone),
  };
}

/** The chain's default api where the run is: whose settings steps read that belong to no api of their own. */
export function endpointOfChain({ chain, endpointOf }: StepFrame): Endpoint | undefined {
  return endpointOf(chain);
}

/** The frame of an expression outside of response keys. */
export function plainFrame(context: StepFrame, endpoint = endpointOfChain(context)): Frame {
  const { host } = context;
  const ending = context.ending;
  const value = (name: string): Maybe =>
    name === 'run' && ending ? runValue(context, ending) : outerName(context, endpoint, name);
  return frameOf(undefined, value, host, (name) => context.scope.whyLacking(name));
}

/** The frame of a response key: there the short names mean the response, whatever else is called so. */
export function responseFrame(context: StepFrame, endpoint: Endpoint | undefined, view: ResponseView): Frame {
  const value = (name: string): Maybe => {
    const own = RESPONSE_NAMES.has(name) ? view.name(name) : name === 'response' ? view.all() : undefined;
    return own ?? outerName(context, endpoint, name);
  };
  return frameOf(view.body, value, context.host.beside(view.host), (name) => context.scope.whyLacking(name));
}

function outerName({ run, scope, memory }: StepFrame, endpoint: Endpoint | undefined, name: string): Maybe {
  const bound = scope.get(name);
  if (bound) return bound.value;
  if (name === 'secret') return run.secrets;
  if (name === 'remembered') return memory.before;
  return name === 'setting' ? endpoint?.settings : undefined;
}

/** `run` as the end of a chain reads it. */
export function runValue({ run, failed }: StepFrame, outcome: 'passed' | 'failed'): ObjectValue {
  return { id: run.id, outcome, failed: failed.map(({ place: _place, ...each }) => each) };
}

/** What an expression read, each name with the address of the step that bound it. */
export function readsOf(tree: Node, scope: Scope): Read[] {
  return namesRead(tree).map((name) => {
    const from = scope.get(name)?.from;
    return from === undefined ? { name } : { name, from };
  });
}
