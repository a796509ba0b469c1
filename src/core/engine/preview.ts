import type { PlaceholderRecord, ProblemRecord } from '../journal/records.ts';
import { nameOfStep } from '../chain/step-address.ts';
import { resolveInputs, type Given } from '../chain/inputs.ts';
import { type CallStep, type Chain, type ChainStep, type Step } from '../chain/model.ts';
import { allSteps, bindingsOf } from '../chain/steps/inside.ts';
import { secretIn, type Secrecy } from '../expression/secrecy.ts';
import { targetPlaceholders } from '../template/request-line.ts';
import { entriesOf } from '../schema/whole-object.ts';
import { secretInTemplate } from '../template/secrecy.ts';
import { placeholdersOf as placeholdersOfText, textsOf } from '../template/template.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Node } from '../expression/model.ts';
import { parseExpression } from '../expression/parse.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { HttpRequest } from '../http/message.ts';
import { fillFault, fillValue, type Resolver } from '../template/fill.ts';
import { showValue } from '../value/show.ts';
import { Mask, type Maybe, type Value } from '../value/value.ts';
import { authOf, RequestBuilder } from './call/build.ts';
import { placeholdersOf } from './call/placeholders.ts';
import { chainFrame, plainFrame } from './frames.ts';
import type { StepFrame } from './frame.ts';
import { namesRead } from '../expression/names-read.ts';
import { inputHost, StepHost } from './host.ts';
import type { Resolvers } from './resolvers.ts';

/** A request that a run would send, as its record would show it. */
export type PreviewedCall = Readonly<{
  name: string;
  /** The chain that it is in, where that is one which is used. */
  chain: string | undefined;
  /** Whether it depends on values that are not known yet where it goes to: what its api adds is left out then. */
  isAnywhere: boolean;
  endpoint: Endpoint | undefined;
  /** The condition under which it is sent, if there is one. */
  when: string | undefined;
  origins: readonly Origin[];
}> &
  (Readonly<{ request: HttpRequest }> | Readonly<{ problem: ProblemRecord }>);

/** Where a value of a request comes from; one that is not known before the run has no value. */
export type Origin = Readonly<{ place: string; text: string; value: string | undefined; from: string }>;

/** A value that a run before gave a name, and which run. */
export type KnownName = Readonly<{ value: Value; run: string }>;

/** Stands for a value that only the run will bring. It is written as it is in the file, and never encoded. */
class Unknown extends Mask {
  override toString(): string {
    return `{${this.name}}`;
  }
}

/**
 * The requests of a chain, without sending any. Inputs, settings and what `let` computes of them are known; names that are
 * kept of responses have the values of a run before, where there is one.
 */
export async function previewChain(
  context: StepFrame,
  known: ReadonlyMap<string, KnownName>,
  used?: Chain,
): Promise<readonly PreviewedCall[]> {
  const keptBy = new Map<string, string>();
  const shown: PreviewedCall[] = [];
  for (const step of allSteps(context.chain.steps)) {
    const inStep = { ...context, host: new StepHost(context.runHost, step.kind === 'call' ? step.name : step.kind) };
    if (step.kind === 'call') shown.push({ ...previewCall(step, inStep, { known, keptBy }), chain: used?.name });
    const inner = step.kind === 'chain' ? context.run.chainAt(step.file) : undefined;
    if (inner) shown.push(...(await previewChain(await frameInside(step as ChainStep, inner, inStep), known, inner)));
    bindKnown(step, inStep, known, keptBy);
  }
  return shown;
}

/** The frame of a used chain: its inputs as far as they are known. */
async function frameInside(step: ChainStep, chain: Chain, outer: StepFrame): Promise<StepFrame> {
  const { masked } = previewResolvers(outer, outer.endpointOf(outer.chain));
  const given = new Map<string, Given>();
  const secretNames = new Map<string, Secrecy>();
  for (const entry of step.inputs) {
    const { name, value } = entry;
    const secret = secretInTemplate(value, outer.secretNames);
    if (secret !== undefined) secretNames.set(name, secret);
    const placeholders = textsOf(value).flatMap(placeholdersOfText);
    if (secret !== undefined || placeholders.some(({ node }) => unknownIn(node, outer))) continue;
    for (const { name, value: of, nameRange, file } of entriesOf([entry], masked)) {
      const filled = fillValue(of, masked);
      const source = { file, text: name, locate: () => nameRange };
      if (filled !== 'left-out') given.set(name, { value: filled.value, source });
    }
  }
  const runHost = outer.runHost.beside(chain.file);
  const { inputs } = await resolveInputs(chain, given, {}, inputHost(runHost, 'preview'));
  return chainFrame({ ...outer, chain, runHost }, inputs, secretNames);
}

type Names = Readonly<{ known: ReadonlyMap<string, KnownName>; keptBy: ReadonlyMap<string, string> }>;

function previewCall(step: CallStep, context: StepFrame, names: Names): PreviewedCall {
  const endpoint = context.endpointOf(context.chain, step);
  const resolvers = previewResolvers(context, endpoint);
  const builder = new RequestBuilder(step.request, endpoint, context, resolvers);
  const origins = placeholdersOf(step, context).map((placeholder) => originOf(placeholder, context, names));
  const { line } = step.request;
  const isAnywhere =
    line?.target.kind === 'reference' && targetPlaceholders(line.target).some(({ node }) => unknownIn(node, context));
  const when = step.when?.source.text.trim();
  const shared = { name: step.name, chain: undefined, isAnywhere, endpoint, when, origins };
  const first = builder.first();
  if ('problem' in first) return { ...shared, problem: first.problem };
  const auth = first.value.isOwn ? authOf(step.request, endpoint) : undefined;
  const signed = builder.signed(first.value, auth?.authenticator(), undefined);
  return 'problem' in signed ? { ...shared, problem: signed.problem } : { ...shared, request: signed.value.shown };
}

/** Fills with masks for secrets, and with the text of the file for what is not known yet. */
function previewResolvers(context: StepFrame, endpoint: Endpoint | undefined): Resolvers {
  const frame = plainFrame(context, endpoint);
  const masked: Resolver = {
    forRecord: true,
    leavesOut: ({ node }) => {
      if (node.kind !== 'path' || node.start.kind !== 'name') return false;
      const { name } = node.start;
      return context.chain.inputs.some((input) => input.name === name && input.optional) && isUnbound(name, context);
    },
    value: (placeholder): Maybe => {
      const secret = secretIn(placeholder.node, context.secretNames)?.name;
      if (secret !== undefined) return new Mask(secret);
      if (masked.leavesOut(placeholder)) return undefined;
      if (unknownIn(placeholder.node, context))
        return new Unknown(placeholder.source.text.slice(...placeholder.node.range));
      const outcome = evaluate(placeholder.node, frame);
      return outcome.problem ? fillFault(placeholder.source, outcome.problem) : outcome.value;
    },
  };
  return { real: masked, masked, holdsSecret: () => false };
}

const AROUND: ReadonlySet<string> = new Set(['secret', 'setting', '$']);

function unknownIn(tree: Node, context: StepFrame): boolean {
  return namesRead(tree).some((name) => !AROUND.has(name) && isUnbound(name, context));
}

function isUnbound(name: string, { scope }: StepFrame): boolean {
  return scope.get(name)?.value === undefined;
}

/** Binds what a step binds, as far as it is known: computed now, or as a run before had it. */
function bindKnown(
  step: Step,
  context: StepFrame,
  known: ReadonlyMap<string, KnownName>,
  keptBy: Map<string, string>,
): void {
  for (const { name, value, by, what } of bindingsOf(step)) {
    keptBy.set(name, what === 'keep' && value ? `${by} from ${value.source.text}` : by);
    if (value?.tree) context.secretNames.set(name, secretIn(value.tree, context.secretNames));
    const before = known.get(name);
    if (what === 'let') {
      if (!value?.tree || unknownIn(value.tree, context)) continue;
      context.scope.bind(name, evaluate(value.tree, plainFrame(context)).value);
    } else if (before) context.scope.bind(name, before.value, nameOfStep(step));
  }
}

function originOf({ place, text, reads }: PlaceholderRecord, context: StepFrame, { known, keptBy }: Names): Origin {
  const names = reads.map(({ name }) => name);
  const values = names.map((name) => context.scope.get(name)?.value);
  const isKnown = names.every((name, i) => AROUND.has(name) || values[i] !== undefined);
  const from = names.map((name) => {
    if (name === 'secret') return 'a secret';
    if (name === 'setting') return 'a setting';
    const by = keptBy.get(name);
    if (by === undefined) return context.chain.inputs.some((input) => input.name === name) ? 'an input' : 'computed';
    const run = known.get(name)?.run;
    return run !== undefined && !by.startsWith('computed') ? `${by}, as in run ${run}` : by;
  });
  const isSecret = names.includes('secret') || names.some((name) => context.secretNames.get(name) !== undefined);
  const { tree } = parseExpression(text);
  const found = isKnown && !isSecret && tree ? evaluate(tree, plainFrame(context)).value : undefined;
  const value = isSecret ? '' : found === undefined ? undefined : showValue(found, 60);
  return { place, text, value, from: [...new Set(from)].join(', ') || 'computed' };
}
