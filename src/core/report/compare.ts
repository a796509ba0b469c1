import { differences, type Difference } from '../value/difference.ts';
import { readJson } from '../value/json-read.ts';
import { showValue, spent } from '../value/show.ts';
import { isList, isObject, typeOf, type Maybe, type Value } from '../value/value.ts';
import { writtenPath } from '../path/normalized.ts';
import { stableName, type CallSummary, type RunSummary } from './run-summary.ts';

/** One way in which a call of a run differs from that of another. */
export type Change = Readonly<{ what: 'shape' | 'status' | 'outcome' | 'value' | 'time'; text: string }>;

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
  const old = new Map(before.calls.map((call) => [stableName(call), call]));
  const names = new Set(after.calls.map(stableName));
  const compared = after.calls.map((call): ComparedCall => {
    const name = stableName(call);
    const then = old.get(name);
    return then ? compareCalls(name, then, call, before, after) : { name, only: 'after', changes: [], setAside: 0 };
  });
  const gone = before.calls.filter((call) => !names.has(stableName(call)));
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
  for (const { keys } of shape) changes.push({ what: 'shape', text: shapeText(keys, was, is) });
  if (then.status !== now.status)
    changes.push({ what: 'status', text: `${now.status ?? 'no response'}, was ${then.status ?? 'no response'}` });
  if (then.hasPassed !== now.hasPassed) changes.push({ what: 'outcome', text: `${now.outcome}, was ${then.outcome}` });
  const others = apart.filter((each) => !shape.includes(each));
  const values = others.filter(({ keys }) => !isAlwaysOther(at(was, keys), at(is, keys)));
  for (const { keys } of values.slice(0, MOST_VALUES))
    changes.push({
      what: 'value',
      text: `${writtenPath(keys)} is ${showValue(at(is, keys), 60)}, was ${showValue(at(was, keys), 60)}`,
    });
  if (values.length > MOST_VALUES)
    changes.push({ what: 'value', text: `and ${values.length - MOST_VALUES} more places` });
  const [took, tookThen] = [now.ms - now.waitedMs, then.ms - then.waitedMs];
  if (Math.abs(took - tookThen) >= LEAST_MS && (took > 2 * tookThen || tookThen > 2 * took))
    changes.push({ what: 'time', text: `${spent(took)}, was ${spent(tookThen)}` });
  return { name, changes, setAside: others.length - values.length };
}

function bodyOf({ exchanges }: CallSummary, run: RunSummary): Value | undefined {
  const last = exchanges.at(-1);
  const content = run.body(last && run.exchange(last.x)?.answered?.body);
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

function shapeText(keys: readonly (string | number)[], was: Maybe, is: Maybe): string {
  const [then, now] = [at(was, keys), at(is, keys)];
  if (then === undefined) return `${writtenPath(keys)} was added: ${showValue(now, 60)}`;
  if (now === undefined) return `${writtenPath(keys)} was removed; it was ${showValue(then, 60)}`;
  return `${writtenPath(keys)} is ${typeOf(now)}, was ${typeOf(then)}`;
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
