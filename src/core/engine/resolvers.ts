import { evaluate } from '../expression/evaluate.ts';
import { secretIn } from '../expression/secrecy.ts';
import type { Node } from '../expression/model.ts';
import { fillFault, type Resolver } from '../template/fill.ts';
import type { Hole } from '../template/template.ts';
import type { Frame } from '../expression/frame.ts';
import { Mask, type Maybe, type Value } from '../value/value.ts';
import { endpointOfChain, plainFrame, type RunContext } from './context.ts';

/** How the holes of one step are filled: with their values, and for the record with masks in place of secrets. */
export type Resolvers = Readonly<{
  real: Resolver;
  masked: Resolver;
  /** Whether a secret was among the holes filled so far. */
  holdsSecret(): boolean;
}>;

const NONE = Object.freeze({});

/** Each hole is evaluated once, however often it is filled, so what is sent and what is recorded agree. `further` names go before all others. */
export function resolversFor(
  context: RunContext,
  endpoint = endpointOfChain(context),
  further: Readonly<Record<string, Value>> = NONE,
): Resolvers {
  const plain = plainFrame(context, endpoint);
  const frame: Frame =
    further === NONE
      ? plain
      : { ...plain, name: (name) => (Object.hasOwn(further, name) ? further[name] : plain.name(name)) };
  const values = new Map<Node, Maybe>();
  const value = (hole: Hole): Maybe => {
    if (!values.has(hole.node)) {
      const outcome = evaluate(hole.node, frame);
      if (outcome.problem) fillFault(hole.source, outcome.problem);
      values.set(hole.node, outcome.value);
    }
    return values.get(hole.node);
  };
  let holdsSecret = false;
  const maskOf = (hole: Hole) => {
    const name = secretIn(hole.node, context.secretNames);
    holdsSecret ||= name !== undefined;
    return name;
  };
  const real: Resolver = {
    value: (hole) => (maskOf(hole), value(hole)),
    leavesOut: (hole) => leavesOut(hole, context),
    forRecord: false,
  };
  const masked: Resolver = {
    ...real,
    forRecord: true,
    value: (hole) => {
      const name = maskOf(hole);
      return name === undefined ? value(hole) : new Mask(name);
    },
  };
  return { real, masked, holdsSecret: () => holdsSecret };
}

/** An optional input that was not given leaves out what is exactly its hole. */
function leavesOut({ node }: Hole, { chain, scope }: RunContext): boolean {
  if (node.kind !== 'path' || node.start.kind !== 'name') return false;
  const { name } = node.start;
  return chain.takes.some((take) => take.name === name && take.optional) && scope.get(name)?.value === undefined;
}
