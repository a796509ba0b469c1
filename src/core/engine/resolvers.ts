import { evaluate } from '../expression/evaluate.ts';
import { secretIn } from '../expression/secrecy.ts';
import type { Node } from '../expression/model.ts';
import { fillFault, foundNothing, type Resolver } from '../template/fill.ts';
import type { Placeholder } from '../template/template.ts';
import type { Frame } from '../expression/frame.ts';
import { Mask, type Maybe, type Value } from '../value/value.ts';
import { explainNothing, withReasons } from './explain.ts';
import { endpointOfChain, plainFrame } from './frames.ts';
import type { StepFrame } from './frame.ts';

/** How the placeholders of one step are filled: with their values, and for the record with masks in place of secrets. */
export type Resolvers = Readonly<{
  real: Resolver;
  masked: Resolver;
  /** Whether a secret was among the placeholders filled so far. */
  holdsSecret(): boolean;
}>;

const NONE = Object.freeze({});

/** Each placeholder is evaluated once, however often it is filled, so what is sent and what is recorded agree. `further` names go before all others. */
export function resolversFor(
  context: StepFrame,
  endpoint = endpointOfChain(context),
  further: Readonly<Record<string, Value>> = NONE,
): Resolvers {
  const plain = plainFrame(context, endpoint);
  const frame: Frame =
    further === NONE
      ? plain
      : { ...plain, name: (name) => (Object.hasOwn(further, name) ? further[name] : plain.name(name)) };
  const values = new Map<Node, Maybe>();
  const value = (placeholder: Placeholder): Maybe => {
    if (!values.has(placeholder.node)) {
      const outcome = evaluate(placeholder.node, frame);
      if (outcome.problem) fillFault(placeholder.source, withReasons(outcome.problem, placeholder.node, frame));
      if (outcome.value === undefined && !leavesOut(placeholder, context))
        foundNothing(placeholder, explainNothing(placeholder.node, placeholder.source, frame));
      values.set(placeholder.node, outcome.value);
    }
    return values.get(placeholder.node);
  };
  let holdsSecret = false;
  const maskOf = (placeholder: Placeholder) => {
    const name = secretIn(placeholder.node, context.secretNames)?.name;
    holdsSecret ||= name !== undefined;
    return name;
  };
  const real: Resolver = {
    value: (placeholder) => (maskOf(placeholder), value(placeholder)),
    leavesOut: (placeholder) => leavesOut(placeholder, context),
    forRecord: false,
  };
  const masked: Resolver = {
    ...real,
    forRecord: true,
    value: (placeholder) => {
      const name = maskOf(placeholder);
      return name === undefined ? value(placeholder) : new Mask(name);
    },
  };
  return { real, masked, holdsSecret: () => holdsSecret };
}

/** An optional input that was not given leaves out what is exactly its placeholder. */
function leavesOut({ node }: Placeholder, { chain, scope }: StepFrame): boolean {
  if (node.kind !== 'path' || node.start.kind !== 'name') return false;
  const { name } = node.start;
  return chain.inputs.some((input) => input.name === name && input.optional) && scope.get(name)?.value === undefined;
}
