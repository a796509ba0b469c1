import { differences, type Difference } from '../value/difference.ts';
import { readJson } from '../value/json-read.ts';
import { counted, showValue, spent } from '../value/show.ts';
import { isList, isObject, typeOf, type Maybe, type Value } from '../value/value.ts';
import { writtenPath } from '../path/normalized.ts';
import { stableName, type CallSummary } from './call-summary.ts';
import { type RunSummary } from './run-summary.ts';

/** One way in which a call of a run differs from that of another. */
type Change = Readonly<{
  what: 'shape' | 'status' | 'outcome' | 'value' | 'time';
  text: string;
  /** What it has in common with changes of the same sort: the place without numbers of items, and how it changed. */
  alike: string;
}>;

export type ComparedCall = Readonly<{
  name: string;
  /** Only in one of the runs. */
  only?: 'before' | 'after';
  changes: readonly Change[];
  /** Places that differ in ids and times, as they do in every run. */
  setAside: number;
}>;

/** Times that differ by less say nothing. */
const LEAST_MS = 200;
/** Changes of values that are told of a call. */
const MOST_VALUES = 10;

/** Two runs, call by call; what changed in shape comes first. Calls are matched by name and item. */
export function compareRuns(before: RunSummary, after: RunSummary): readonly ComparedCall[] {
  // Each is read from its journal when it is gone over.
  const [earlier, calls] = [[...before.calls], [...after.calls]];
  const old = new Map(earlier.map((call) => [stableName(call), call]));
  const names = new Set(calls.map(stableName));
  const compared = calls.map((call): ComparedCall => {
    const name = stableName(call);
    const then = old.get(name);
    return then ? compareCalls(name, then, call, before, after) : { name, only: 'after', changes: [], setAside: 0 };
  });
  const gone = earlier.filter((call) => !names.has(stableName(call)));
  const all = [
    ...compared,
    ...gone.map((call) => ({ name: stableName(call), only: 'before', changes: [], setAside: 0 }) as const),
  ];
  return all.sort((left, right) => weight(right) - weight(left));
}

function weight({ changes, only }: ComparedCall): number {
  if (changes.some(({ what }) => what === 'shape')) return 3;
  if (only || changes.some(({ what }) => what === 'status' || what === 'outcome')) return 2;
  return changes.length > 0 ? 1 : 0;
}

function compareCalls(
  name: string,
  then: CallSummary,
  now: CallSummary,
  before: RunSummary,
  after: RunSummary,
): ComparedCall {
  const changes: Change[] = [];
  const [was, is] = [bodyOf(then, before), bodyOf(now, after)];
  const apart = was === undefined || is === undefined ? [] : differences(was, is, { atLeast: false });
  const shape = apart.filter((each) => isOfShape(each, was, is));
  changes.push(...byPlace('shape', shape, (keys) => shapeOf(keys, was, is)));
  const whole = (what: Change['what'], text: string): Change => ({ what, text, alike: text });
  if (then.status !== now.status)
    changes.push(whole('status', `${now.status ?? 'no response'}, was ${then.status ?? 'no response'}`));
  if (then.hasPassed !== now.hasPassed) changes.push(whole('outcome', `${now.outcome}, was ${then.outcome}`));
  const others = apart.filter((each) => !shape.includes(each));
  const values = others.filter(({ keys }) => !isAlwaysOther(at(was, keys), at(is, keys)));
  const valueOf: Told = (keys) => ({
    how: 'differs',
    text: `is ${showValue(at(is, keys), 60)}, was ${showValue(at(was, keys), 60)}`,
  });
  const places = byPlace('value', values, valueOf);
  changes.push(...places.slice(0, MOST_VALUES));
  if (places.length > MOST_VALUES)
    changes.push({ what: 'value', text: `and ${counted(places.length - MOST_VALUES, 'more place')}`, alike: 'more' });
  const [took, tookThen] = [now.ms - now.waitedMs, then.ms - then.waitedMs];
  if (Math.abs(took - tookThen) >= LEAST_MS && (took > 2 * tookThen || tookThen > 2 * took))
    changes.push({ what: 'time', text: `${spent(took)}, was ${spent(tookThen)}`, alike: '' });
  return { name, changes, setAside: others.length - values.length };
}

function bodyOf({ exchanges, reused }: CallSummary, run: RunSummary): Value | undefined {
  const last = exchanges.at(-1) ?? reused.at(-1);
  const exchange = last && run.exchange(last);
  const content = exchange?.body(exchange.answered?.body);
  const read = content && readJson(new TextDecoder().decode(content));
  return read?.ok ? read.value : undefined;
}

function at(value: Maybe, keys: readonly (string | number)[]): Maybe {
  return keys.reduce<Maybe>((inside, key) => {
    if (isList(inside)) return inside[key as number];
    return isObject(inside) && Object.hasOwn(inside, key) ? inside[key] : undefined;
  }, value);
}

/** A member that came or went, or that is of another kind; not the length of a list. */
function isOfShape({ keys }: Difference, was: Maybe, is: Maybe): boolean {
  return typeOf(at(was, keys)) !== typeOf(at(is, keys));
}

type Keys = readonly (string | number)[];
/** How a place changed, for all places that changed alike, and the whole of it for one. */
type Told = (keys: Keys) => Readonly<{ how: string; text: string }>;

function shapeOf(keys: Keys, was: Maybe, is: Maybe): ReturnType<Told> {
  const [then, now] = [at(was, keys), at(is, keys)];
  if (then === undefined) return { how: 'was added', text: `was added: ${showValue(now, 60)}` };
  if (now === undefined) return { how: 'was removed', text: `was removed; it was ${showValue(then, 60)}` };
  const text = `is ${typeOf(now)}, was ${typeOf(then)}`;
  return { how: text, text };
}

/** Changes of places that differ in the numbers of items alone are one change. */
function byPlace(what: Change['what'], differing: readonly Difference[], told: Told): readonly Change[] {
  const groups = new Map<string, Keys[]>();
  for (const { keys } of differing) {
    const place = keys.map((key) => (typeof key === 'number' ? '*' : key));
    const id = JSON.stringify([place, told(keys).how]);
    groups.set(id, [...(groups.get(id) ?? []), keys]);
  }
  return [...groups].map(([alike, [first, ...more]]): Change => {
    const { how, text } = told(first!);
    if (more.length === 0) return { what, text: `${writtenPath(first!)} ${text}`, alike };
    const place = writtenPath(first!).replace(/\[\d+\]/g, '[*]');
    const example = `${writtenPath(first!)} ${text}`;
    return { what, text: `${place} ${how} in ${counted(more.length + 1, 'place')}; the first: ${example}`, alike };
  });
}

/** Calls of a loop that changed in the same way, together: the first stands for all of them. */
type AlikeCalls = Readonly<{ first: ComparedCall; count: number }>;

/** Compared calls, those of one name that changed alike told once. */
export function alikeCalls(calls: readonly ComparedCall[]): readonly AlikeCalls[] {
  const groups = new Map<string, { first: ComparedCall; count: number }>();
  for (const call of calls) {
    const changes = call.changes.map(({ what, alike }) => [what, alike]);
    const id = JSON.stringify([call.name.replace(/ \[.*$/s, ''), call.only, changes]);
    const known = groups.get(id);
    if (known) known.count++;
    else groups.set(id, { first: call, count: 1 });
  }
  return [...groups.values()];
}

const INSTANT = /^\d{4}-\d\d-\d\d[Tt ]\d\d:\d\d/;
const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i;
/** Numbers from here on are taken for seconds since 1970. */
const EPOCH = 1_000_000_000;

/** Whether two values are of a sort that is another one every time: instants, UUIDs, counters in an id. */
function isAlwaysOther(was: Maybe, is: Maybe): boolean {
  if (typeof was === 'number' && typeof is === 'number') return was > EPOCH && is > EPOCH;
  if (typeof was !== 'string' || typeof is !== 'string') return false;
  if (INSTANT.test(was) && INSTANT.test(is)) return true;
  if (UUID.test(was) && UUID.test(is)) return true;
  const frame = (text: string) => text.replace(/\d+/g, '0');
  return /\d/.test(was) && /[A-Za-z]/.test(was) && frame(was) === frame(is);
}
