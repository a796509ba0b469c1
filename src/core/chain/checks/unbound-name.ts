import type { Range } from '../../diagnostics/problem.ts';
import type { Source } from '../../diagnostics/source.ts';
import { adviceOf, nearest } from '../../diagnostics/suggest.ts';
import type { Node, PathNode } from '../../expression/model.ts';
import type { Chain } from '../model.ts';
import { RESERVED, RESPONSE_KEYS, RESPONSE_NAMES } from '../names.ts';
import type { Place } from '../place.ts';
import { stepsOf } from '../steps/inside.ts';
import type { RuleContext } from './rule.ts';

/** A name that an expression reads: where it stands, and in what. */
type NameRead = Readonly<{
  context: RuleContext;
  source: Source;
  place: Place;
  name: string;
  range: Range;
  /** The whole expression, and the path that begins with the name. */
  tree: Node;
  node: PathNode;
}>;

/** Says why a name has no value where it is read: the first of the reasons that hold. */
export function checkName(read: NameRead): void {
  const { place, name } = read;
  if (place.names.has(name)) return;
  if (RESERVED.has(name)) return checkReserved(read);
  if (place.meanings.includes(name)) return;
  if (RESPONSE_NAMES.has(name)) return checkResponseName(read);
  const reasons = [keptInLoop, usedTooEarly, bareWord, readThroughInputs];
  if (!reasons.some((reason) => reason(read))) unknownName(read);
}

type Reason = (read: NameRead) => boolean;

export function noResponse({ reportIn }: RuleContext, source: Source, name: string, range: Range): void {
  reportIn(source, {
    code: 'no-response-here',
    range,
    message: `There is no response here to read ${name} from`,
    advice: `Responses are read in ${RESPONSE_KEYS}: keep the value there under a name, and use the name here.`,
  });
}

function checkReserved({ context, source, place, name, range, node }: NameRead): void {
  if (name === 'response' && !place.response) return noResponse(context, source, 'response', range);
  if (place.meanings.includes(name)) {
    if (name === 'loop') checkLoopMember(context, source, node);
  } else if (name === 'run') runTooEarly(context, source, range);
  else if (ELSEWHERE[name] !== undefined) meansElsewhere(context, source, name, range);
}

function checkResponseName({ context, source, place, name, range }: NameRead): void {
  if (!place.response) noResponse(context, source, name, range);
  else if (place.meanings.includes('method') && !OF_A_REQUEST.has(name)) noneOfARequest(context, source, name, range);
}

const keptInLoop: Reason = ({ context, source, place, name, range }) => {
  const loop = place.gone.get(name);
  if (loop === undefined) return false;
  context.reportIn(source, {
    code: 'kept-in-loop',
    range,
    message: `"${name}" is kept inside the loop ${loop}, once for each item, and not available after it`,
    advice: `Gather it: gather: {all_${name}: "{${name}}"}, and use all_${name} here.`,
  });
  return true;
};

const usedTooEarly: Reason = ({ context, source, place, name, range }) => {
  const binder = laterBinder(context.chain, name);
  if (binder === undefined) return false;
  const isOwn = binder === place.step;
  const by = isOwn ? 'this call itself, after its expectations' : `${binder}, which comes later`;
  const message = `"${name}" has no value yet: it is kept by ${by}`;
  const advice = isOwn ? 'Keep it in an earlier call, or read the response itself.' : `Move this after ${binder}.`;
  context.reportIn(source, { code: 'used-too-early', range, message, advice });
  return true;
};

/** A word that stands for itself. */
const bareWord: Reason = (read) => {
  const { context, source, place, name, range, tree, node } = read;
  if (place.placeholder || tree !== node || node.segments.length > 0 || nearestName(read) !== undefined) return false;
  const advice = `Strings in an expression need their own quotes: "'${name}'".`;
  const fix = { range, text: `'${name}'` };
  context.reportIn(source, { code: 'bare-word', range, message: `Unknown name "${name}"`, advice, fix });
  return true;
};

const readThroughInputs: Reason = ({ context, source, name, range, node }) => {
  const member = node.segments[0]?.selectors[0];
  if (name !== 'inputs' || member?.kind !== 'name') return false;
  const message = 'Inputs are read by their names, without "inputs"';
  context.reportIn(source, { code: 'unknown-name', range, message, advice: `Write ${member.name}.` });
  return true;
};

function unknownName(read: NameRead): void {
  const { context, source, place, name, range } = read;
  const near = nearestName(read);
  const names = [...place.names.keys()];
  const known =
    names.length > 0
      ? `The names here are ${names.slice(0, 12).join(', ')}.`
      : 'Declare it as an input under inputs, or keep it in an earlier call.';
  context.reportIn(source, {
    code: 'unknown-name',
    range,
    message: `Unknown name "${name}"`,
    ...adviceOf(near === undefined ? known : `Did you mean "${near}"?`),
    ...(near === undefined ? {} : { fix: { range, text: near } }),
  });
}

function nearestName({ name, place }: NameRead): string | undefined {
  return nearest(name, [...place.names.keys(), ...(place.response ? RESPONSE_NAMES.keys() : [])]);
}

/** Response names that a received request has as well. */
const OF_A_REQUEST: ReadonlySet<string> = new Set(['headers', 'url', 'raw']);

function noneOfARequest({ reportIn }: RuleContext, source: Source, name: string, range: Range): void {
  const message = `"${name}" belongs to a response, and this is a received request`;
  const advice = 'A received request has $, headers, method, url, query and raw.';
  reportIn(source, { code: 'unknown-name', range, message, advice });
}

/** Reserved names that mean something only in steps and keys of their own. */
const ELSEWHERE: Readonly<Record<string, string>> = {
  loop: 'the loop around a step, whose loop.number counts items or rounds from 1',
  request: 'the request to be signed, in attach',
  outputs: 'the outputs of a used chain, in keep of its step',
};

function meansElsewhere({ reportIn }: RuleContext, source: Source, name: string, range: Range): void {
  const message = `"${name}" cannot be read here: it is ${ELSEWHERE[name]}`;
  reportIn(source, { code: 'unknown-name', range, message });
}

function runTooEarly({ reportIn }: RuleContext, source: Source, range: Range): void {
  const message = 'The outcome of the run is known only at its end';
  reportIn(source, {
    code: 'only-at-the-end',
    range,
    message,
    advice: 'Read run.id, run.outcome and run.failed in cleanup and outputs.',
  });
}

/** A loop has one member: the number of its item or round. */
function checkLoopMember({ reportIn }: RuleContext, source: Source, { range, segments: [segment] }: PathNode): void {
  const selector = segment?.selectors[0];
  if (selector?.kind === 'name' && selector.name === 'number') return;
  const [start] = range;
  const isIndex = selector?.kind === 'name' && selector.name === 'index';
  reportIn(source, {
    code: 'unknown-name',
    range,
    message: `The only member of loop is number, not "${source.text.slice(start, range[1])}"`,
    advice: isIndex
      ? 'Write loop.number, which counts from 1, or loop.number - 1 to count from 0.'
      : 'Write loop.number: the number of the item or round, from 1.',
  });
}

/** What binds a name somewhere in this chain, in words. */
function laterBinder(chain: Chain, name: string): string | undefined {
  const isIt = (each: Readonly<{ name: string }>) => each.name === name;
  for (const step of stepsOf(chain)) {
    if (step.kind === 'call' && step.keep.some(isIt)) return step.name;
    if (step.kind === 'each' && step.gather.some(isIt)) return 'a loop';
    if (step.kind === 'receive' && step.keep.some(isIt)) return `receive ${step.name}`;
    if (step.kind === 'chain' && step.keep.some(isIt)) return step.file.text;
    if (step.kind === 'let' && step.names.some(isIt)) return 'a let';
  }
  return undefined;
}
