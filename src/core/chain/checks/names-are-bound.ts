import type { Range } from '../../diagnostics/problem.ts';
import type { Source } from '../../diagnostics/source.ts';
import { adviceOf, nearest } from '../../diagnostics/suggest.ts';
import { findFunction } from '../../expression/functions/list.ts';
import type { CallNode, Node, PathNode } from '../../expression/model.ts';
import type { CallStep, Chain } from '../model.ts';
import { stepsOf } from '../steps/inside.ts';
import { RESERVED, RESPONSE_KEYS, RESPONSE_NAMES } from '../names.ts';
import { eachNode } from '../walk.ts';
import type { Place } from '../place.ts';
import type { Rule, RuleContext } from './rule.ts';

/** Every name that an expression reads is bound at that place, and `$`, `@` and response names stand where they mean something. */
export const namesAreBound: Rule = (context) => {
  let call: CallStep | undefined;
  return {
    call: (step) => void (call = step),
    expression(tree, source, place) {
      const own = call?.name === place.step ? call : undefined;
      eachNode(tree, (node, inside) => {
        if (node.kind === 'call') checkCall(context, source, place, node);
        if (node.kind !== 'path') return;
        const { start } = node;
        if (start.kind === 'body' && !place.response) noResponse(context, source, '$', node.range);
        if (start.kind === 'item' && !inside.item) noItem(context, source, node);
        if (start.kind !== 'name') return;
        const { name, range } = start;
        const missing = own && place.response && !place.names.has(name) ? MISSING[name]?.(own) : undefined;
        if (missing) context.reportIn(source, { code: 'unknown-name', range, ...missing });
        else checkName(context, source, place, name, range, tree, node);
      });
    },
  };
};

/** What is wrong with response names that only some calls have. */
const MISSING: Readonly<Record<string, (call: CallStep) => Readonly<{ message: string; advice: string }> | undefined>> =
  {
    items: ({ paging }) =>
      paging?.items
        ? undefined
        : {
            message: '"items" is the array over all pages, and this call does not define it',
            advice: 'Add items under paging, with the path of the array in one page.',
          },
    page_count: ({ paging }) =>
      paging ? undefined : { message: '"page_count" counts pages, and this call has no paging', advice: 'Add paging.' },
    polls: ({ poll }) =>
      poll ? undefined : { message: '"polls" counts polls, and this call does not poll', advice: 'Add poll.' },
  };

function noResponse({ reportIn }: RuleContext, source: Source, name: string, range: Range): void {
  reportIn(source, {
    code: 'no-response-here',
    range,
    message: `There is no response here to read ${name} from`,
    advice: `Responses are read in ${RESPONSE_KEYS}: keep the value there under a name, and use the name here.`,
  });
}

/** Functions that read the response beside `$` mean nothing without one; `xpath` with a node needs none. */
function checkCall(context: RuleContext, source: Source, place: Place, { name, args, nameRange }: CallNode): void {
  const isOfResponse = findFunction(name)?.ofResponse === true && !(name === 'xpath' && args.length > 1);
  if (isOfResponse && !place.response) noResponse(context, source, `${name}()`, nameRange);
}

function noItem({ reportIn }: RuleContext, source: Source, node: Node): void {
  const message = '@ is the item of a filter, and there is no filter here';
  reportIn(source, {
    code: 'does-not-parse',
    range: [node.range[0], node.range[0] + 1],
    message,
    advice: 'Write $ for the response body.',
  });
}

function checkName(
  context: RuleContext,
  source: Source,
  place: Place,
  name: string,
  range: Range,
  tree: Node,
  node: PathNode,
): void {
  if (place.names.has(name) || (place.response && place.meanings.includes(name))) return;
  if (RESERVED.has(name)) {
    if (name === 'response' && !place.response) noResponse(context, source, 'response', range);
    else if (place.meanings.includes(name)) {
      if (name === 'loop') checkLoopMember(context, source, node);
      return;
    } else if (name === 'run') runTooEarly(context, source, range);
    else if (ELSEWHERE[name] !== undefined) meansElsewhere(context, source, name, range);
    return;
  }
  if (RESPONSE_NAMES.has(name)) {
    if (!place.response) noResponse(context, source, name, range);
    else if (place.meanings.includes('method') && !OF_A_REQUEST.has(name)) noneOfARequest(context, source, name, range);
    return;
  }
  const loop = place.gone.get(name);
  if (loop !== undefined) {
    context.reportIn(source, {
      code: 'kept-in-loop',
      range,
      message: `"${name}" is kept inside the loop ${loop}, once for each item, and not available after it`,
      advice: `Gather it: gather: {all_${name}: "{${name}}"}, and use all_${name} here.`,
    });
    return;
  }
  const boundLater = laterBinder(context.chain, name);
  if (boundLater) {
    const isOwn = boundLater === place.step;
    const by = isOwn ? 'this call itself, after its expectations' : `${boundLater}, which comes later`;
    const advice = isOwn
      ? 'Keep it in an earlier call, or read the response itself.'
      : `Move this after ${boundLater}.`;
    context.reportIn(source, {
      code: 'used-too-early',
      range,
      message: `"${name}" has no value yet: it is kept by ${by}`,
      advice,
    });
    return;
  }
  const near = nearest(name, [...place.names.keys(), ...(place.response ? RESPONSE_NAMES.keys() : [])]);
  if (!place.placeholder && tree === node && node.segments.length === 0 && !near) {
    const advice = `Strings in an expression need their own quotes: "'${name}'".`;
    context.reportIn(source, {
      code: 'bare-word',
      range,
      message: `Unknown name "${name}"`,
      advice,
      fix: { range, text: `'${name}'` },
    });
    return;
  }
  const names = [...place.names.keys()];
  const member = node.segments[0]?.selectors[0];
  if (name === 'inputs' && member?.kind === 'name') {
    const message = 'Inputs are read by their names, without "inputs"';
    context.reportIn(source, { code: 'unknown-name', range, message, advice: `Write ${member.name}.` });
    return;
  }
  const fix = near === undefined ? {} : { fix: { range, text: near } };
  const advice = near
    ? `Did you mean "${near}"?`
    : names.length > 0
      ? `The names here are ${names.slice(0, 12).join(', ')}.`
      : 'Declare it as an input under inputs, or keep it in an earlier call.';
  context.reportIn(source, {
    code: 'unknown-name',
    range,
    message: `Unknown name "${name}"`,
    ...adviceOf(advice),
    ...fix,
  });
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
  for (const step of stepsOf(chain)) {
    if (step.kind === 'call' && step.keep.some((kept) => kept.name === name)) return step.name;
    if (step.kind === 'each' && step.gather.some((each) => each.name === name)) return 'a loop';
    if (step.kind === 'receive' && step.keep.some((kept) => kept.name === name)) return `receive ${step.name}`;
    if (step.kind === 'chain' && step.keep.some((each) => each.name === name)) return step.file.text;
    if (step.kind === 'let' && step.names.some((each) => each.name === name)) return 'a let';
  }
  return undefined;
}
