import type { Expression } from '../schema/leaves.ts';
import type { Expectation } from '../http/expectation.ts';
import { namesRead } from '../expression/names-read.ts';
import { isSingular } from '../path/model.ts';
import { onceOf } from '../once.ts';
import type { CallStep, Chain } from './model.ts';
import { stepsOf } from './steps/inside.ts';
import { walkChain } from './walk.ts';

const NO_SURROUNDINGS = { endpointOf: () => undefined };

/**
 * Tables, gathered lists and lists kept of responses that nothing in a chain reads but the heads of loops and `write` with
 * `rows`: what is only gone over need not be held, however long it is.
 */
export const streamableLists = onceOf((chain: Chain): ReadonlySet<string> => {
  const steps = stepsOf(chain);
  const lists = steps.flatMap((step) =>
    step.kind === 'each' ? [step.list] : step.kind === 'write' ? [step.rows] : [],
  );
  const walked = new Set(lists.flatMap((list) => (bareName(list) === undefined ? [] : [list!.tree])));
  const read = new Set<string>();
  const expression = (tree: NonNullable<Expression['tree']>): void => {
    if (!walked.has(tree)) for (const name of namesRead(tree)) read.add(name);
  };
  walkChain(chain, NO_SURROUNDINGS, [{ expression }]);
  const tables = chain.inputs.flatMap(({ name, type }) => (type === 'table' ? [name] : []));
  const gathered = steps.flatMap((step) => (step.kind === 'each' ? step.gather.map(({ name }) => name) : []));
  const kept = steps.flatMap((step) => (step.kind === 'call' ? (listKeptOf(step)?.name ?? []) : []));
  return new Set([...tables, ...gathered, ...kept].filter((name) => !read.has(name)));
});

/** What is kept of a response of which nothing else is read: by which name, and where it stands in the body. */
export type ListKept = Readonly<{ name: string; text: string; path: readonly (string | number)[] }>;

/** The list of a response that goes into lines as it arrives, where a loop alone goes over it. */
export function streamedList(chain: Chain, step: CallStep, ofApi: readonly Expectation[]): ListKept | undefined {
  const kept = ofApi.every(readsNoBody) ? listKeptOf(step) : undefined;
  return kept && streamableLists(chain).has(kept.name) ? kept : undefined;
}

/** Names of a response that say something of its body. */
const OF_BODY: ReadonlySet<string> = new Set(['$', 'raw', 'size', 'items', 'response']);
const LISTS: ReadonlySet<string | undefined> = new Set([undefined, 'json', 'ndjson', 'csv']);

/** The list that a call keeps of its response where it reads nothing else of it. */
export function listKeptOf(step: CallStep): ListKept | undefined {
  const { paging, poll, save, untilEvent, undo, freshFor, readAs, keep, expect } = step;
  const isPlain = ![paging, poll, save, untilEvent, undo, freshFor].some((each) => each !== undefined);
  if (!isPlain || !LISTS.has(readAs) || !expect.every(readsNoBody)) return undefined;
  const [one, ...more] = keep.filter(({ value }) => readsBody(value));
  const path = one && more.length === 0 ? placeInBody(one.value) : undefined;
  return path && { name: one!.name, text: one!.value.source.text, path };
}

function readsNoBody(expectation: Expectation): boolean {
  return expectation.form === 'that' && !readsBody(expectation.expression);
}

function readsBody({ tree }: Expression): boolean {
  return !tree || namesRead(tree).some((name) => OF_BODY.has(name));
}

/** The names and indexes of a path from the body that finds one value at most. */
function placeInBody({ tree }: Expression): ListKept['path'] | undefined {
  if (tree?.kind !== 'path' || tree.start.kind !== 'body' || !isSingular(tree.segments)) return undefined;
  const keys = tree.segments.map(({ selectors: [selector] }) => {
    if (selector?.kind === 'name') return selector.name;
    return selector?.kind === 'index' && selector.index >= 0 ? selector.index : undefined;
  });
  return keys.every((key) => key !== undefined) ? keys : undefined;
}

/** The name that an expression is, and nothing else. */
export function bareName(expression: Expression | undefined): string | undefined {
  const tree = expression?.tree;
  if (tree?.kind !== 'path' || tree.segments.length > 0 || tree.start.kind !== 'name') return undefined;
  return tree.start.name;
}
