import { describedCall } from '../chain/checks/contracts-hold.ts';
import { shapesAt } from '../chain/checks/contract-paths.ts';
import { DescriptionFault } from '../contract/documents.ts';
import { evaluate } from '../expression/evaluate.ts';
import { frameOf, type Frame } from '../expression/frame.ts';
import type { Node } from '../expression/model.ts';
import { isSingular } from '../path/model.ts';
import { nameAbout, namesBelow } from '../reference/names.ts';
import { cutAt, showBriefly } from '../value/show.ts';
import { isList, isObject, typeOf, type Maybe, type Value } from '../value/value.ts';
import { wordRange, type Completion, type Editing } from './completion.ts';
import type { Tail } from './expression-tail.ts';
import type { LastRun } from './recorded.ts';
import type { Scope } from './scope.ts';
import { usedChain } from './used-chain.ts';

/** Items of an array whose members are looked at. */
const SAMPLES = 20;
/** Characters of a value that is shown. */
export const MAX_SHOWN = 80;

type Member = Readonly<{ name: string; detail?: string | undefined; about?: string | undefined }>;

/** What may follow a dot: members of what was recorded there last, of what the description says, of what the name stands for. */
export function membersOf(tail: Tail, scope: Scope | undefined, editing: Editing): readonly Completion[] {
  const found = new Map<string, Member>();
  const all = [...named(tail, scope, editing), ...recorded(tail, scope, editing), ...described(tail, scope, editing)];
  for (const member of all) found.set(member.name, { ...member, ...found.get(member.name) });
  const { offset } = editing.cursor;
  const start = offset - tail.word.length;
  return [...found.values()].map(({ name, detail, about }) => {
    const isPlain = /^[A-Za-z_]\w*$/.test(name);
    // A member that is no name is written in brackets, in place of the dot.
    const range = wordRange(editing, isPlain ? start : start - 1, /\w/);
    const quote = editing.cursor.quote === "'" ? '"' : "'";
    return {
      label: name,
      sort: 'member',
      detail,
      about,
      range,
      insert: isPlain ? name : `[${quote}${name}${quote}]`,
      rank: 0,
    };
  });
}

/** Members of names that mean something by themselves: `secret`, `setting`, `outputs`, `loop`, `run`. */
function named({ base }: Tail, scope: Scope | undefined, editing: Editing): readonly Member[] {
  if (base?.kind !== 'path' || base.start.kind !== 'name' || base.segments.length > 0) return [];
  const { around } = editing;
  switch (base.start.name) {
    case 'secret':
      return around.secretNames().map((name) => ({ name, detail: 'secret' }));
    case 'setting': {
      const endpoints = scope?.place.endpoint
        ? [scope.place.endpoint]
        : (around.project?.apis ?? []).flatMap((each) => each.endpoints);
      return endpoints.flatMap(({ settings, api }) =>
        Object.entries(settings).map(([name, value]) => ({
          name,
          detail: shownValue(value),
          about: `setting of ${api}`,
        })),
      );
    }
    case 'outputs': {
      const used = usedChain(editing);
      return (used?.outputs ?? []).map(({ name, value }) => ({ name, detail: value.source.text.trim() }));
    }
    default:
      return namesBelow(base.start.name).map((name) => ({
        name,
        about: nameAbout(`${(base.start as { name: string }).name}.${name}`),
      }));
  }
}

/** Members that the last run had there. */
function recorded({ base, items }: Tail, scope: Scope | undefined, { around }: Editing): readonly Member[] {
  const run = around.lastRun();
  if (!run || !base) return [];
  const values = samplesAt(base, items, scope, run);
  return values.flatMap((value) =>
    isObject(value)
      ? Object.entries(value).map(([name, each]) => ({
          name,
          detail: shownValue(each),
          about: `in the last run, ${run.when}`,
        }))
      : [],
  );
}

/** What was there where an expression leads, in the last run: a value, or each of those that a path finds. */
function samplesAt(base: Node, items: readonly Node[], scope: Scope | undefined, run: LastRun): readonly Value[] {
  const [list, ...outer] = items;
  const frame = lastFrame(scope, run);
  if (list) frame.item = listedAt(list, outer, scope, run)[0];
  const { value } = evaluate(base, frame);
  if (value === undefined) return [];
  const isMany = base.kind === 'path' && !isSingular(base.segments);
  return isMany && isList(value) ? [...value].slice(0, SAMPLES) : [value];
}

/** The names of a scope as the last run had them. `items` over all pages is that of one page, as far as members go. */
function lastFrame(scope: Scope | undefined, run: LastRun): Frame {
  const response = scope?.call && scope.place.response ? run.response(scope.call.name) : undefined;
  const paged = scope?.call?.paging?.items?.tree;
  const items = () => paged && evaluate(paged, frameOf(response?.body, run.value)).value;
  return frameOf(response?.body, (name) => (name === 'items' && paged ? items() : run.value(name)));
}

function listedAt(list: Node, outer: readonly Node[], scope: Scope | undefined, run: LastRun): readonly Value[] {
  return samplesAt(list, outer, scope, run).flatMap((value) =>
    isList(value) ? [...value].slice(0, SAMPLES) : [value],
  );
}

/** Members that the description of the API has there. */
function described({ base, items }: Tail, scope: Scope | undefined, { around }: Editing): readonly Member[] {
  const call = scope?.call && describedCall(scope.call, scope.place.endpoint, around.contractOf);
  if (!call?.operation || !base) return [];
  try {
    const { shaper, shapes } = shapesAt(base, items, call.contract, call.operation);
    return shaper.names(shapes).map((name) => {
      const below = shaper.member(shapes, name).shapes ?? [];
      return { name, detail: shaper.typeWords(below), about: shaper.about(below) };
    });
  } catch (error) {
    if (error instanceof DescriptionFault) return [];
    throw error;
  }
}

/** A type and a value in a few words. */
function shownValue(value: Maybe): string {
  if (value === undefined) return 'nothing';
  const cut = cutAt(showBriefly(value), MAX_SHOWN);
  return isList(value) || isObject(value) ? cut : `${typeOf(value)}, last ${cut}`;
}
