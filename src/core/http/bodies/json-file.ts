import type { Problem } from '../../diagnostics/problem.ts';
import type { Source } from '../../diagnostics/source.ts';
import { didYouMean } from '../../diagnostics/suggest.ts';
import { locate } from '../../expression/evaluate.ts';
import { frameOf, type Frame } from '../../expression/frame.ts';
import type { PathNode } from '../../expression/model.ts';
import { parseExpression } from '../../expression/parse.ts';
import { keysOf } from '../../path/normalized.ts';
import { fileName } from '../../schema/leaves.ts';
import { fillJson } from '../../template/fill.ts';
import { textsOf } from '../../template/template.ts';
import { isObject } from '../../value/value.ts';
import { readJson } from '../../value/json-read.ts';
import { addedMembers, spanAt, type Span } from '../../value/json-spans.ts';
import type { BodyKind } from './definition.ts';
import {
  at,
  foundNothing,
  plainFile,
  refuse,
  set,
  sourceOf,
  utf8File,
  type FileWithSet,
  type SetEntry,
} from './set.ts';

/** A JSON file as an API documents it, with values put in by path; every other byte of it stays as it is. */
export const jsonFile: BodyKind<FileWithSet, 'set'> = {
  key: 'json-file',
  schema: fileName().describe('A JSON file that is sent as it is, except for what set changes.'),
  also: { set },
  type: () => 'application/json',
  texts: ({ main, set = [] }) => [main, ...set.flatMap(({ value }) => textsOf(value))],
  files: ({ main }) => [main],
  problems: ({ set = [] }) => set.flatMap((entry) => ('problem' in pathOf(entry) ? [pathOf(entry) as never] : [])),
  fileProblems: ({ main, set = [] }, host) => {
    const file = plainFile(main, host, NOT_UTF8);
    if (typeof file !== 'string') return file;
    const read = readJson(file);
    if (!read.ok) return [at(main.source, 'not-decodable', noJson(read))];
    const frame = frameOf(read.value, () => undefined);
    return set.flatMap((entry) => {
      const path = pathOf(entry);
      if ('problem' in path) return [];
      const found = placesOf(path.path, frame);
      return 'advice' in found ? [at(sourceOf(entry), 'found-nothing', foundNothing(entry), found.advice)] : [];
    });
  },
  build: ({ main, set = [] }, resolver, host) => {
    const text = utf8File(main, { resolver, host, otherwise: NOT_UTF8 });
    const read = readJson(text);
    if (!read.ok) refuse(main.source, 'not-decodable', noJson(read));
    const frame = frameOf(read.value, () => undefined);
    const changes: Change[] = [];
    const added = new Map<string, { keys: Keys; members: [string, string][] }>();
    for (const entry of set) {
      const path = pathOf(entry);
      if ('problem' in path) continue;
      const json = fillJson(entry.value, resolver);
      if (json === undefined) {
        const advice = 'Write {name ?? null}: a member of the file cannot be removed.';
        refuse(sourceOf(entry), 'found-nothing', `The input for ${entry.name} was not given`, advice);
      }
      const found = placesOf(path.path, frame);
      if ('advice' in found) refuse(sourceOf(entry), 'found-nothing', foundNothing(entry), found.advice);
      if ('places' in found) changes.push(...found.places.map((keys) => ({ span: spanAt(text, keys)!, json })));
      else
        for (const keys of found.objects) {
          const key = JSON.stringify(keys);
          if (!added.has(key)) added.set(key, { keys, members: [] });
          added.get(key)!.members.push([found.name, json]);
        }
    }
    return replaced(text, [...changes, ...[...added.values()].map((to) => addedMembers(text, to.keys, to.members))]);
  },
};

type Keys = readonly (string | number)[];
type Change = Readonly<{ span: Span; json: string }>;

/** The values that a path finds; else the objects that its last name can be added to; else what may be meant. */
type Places =
  | Readonly<{ places: readonly Keys[] }>
  | Readonly<{ objects: readonly Keys[]; name: string }>
  | Readonly<{ advice: string }>;

function placesOf(path: PathNode, frame: Frame): Places {
  const found = locate(path, frame);
  if (found.length > 0) return { places: found.map(keysOf) };
  const last = path.segments.at(-1);
  const selector = last && !last.descends && last.selectors.length === 1 ? last.selectors[0] : undefined;
  const parents = locate({ ...path, segments: path.segments.slice(0, -1) }, frame).filter(({ value }) =>
    isObject(value),
  );
  const advice = 'To list its paths: batharon value';
  if (selector?.kind !== 'name' || parents.length === 0) return { advice };
  const names = new Set(parents.flatMap(({ value }) => Object.keys(value as object)));
  const meant = didYouMean(selector.name, names);
  return meant === undefined ? { objects: parents.map(keysOf), name: selector.name } : { advice: meant };
}

/** The path that is the key of an entry; the text of a key is what stands in the file. */
function pathOf(entry: SetEntry): Readonly<{ path: PathNode }> | Readonly<{ source: Source; problem: Problem }> {
  const { tree, problems } = parseExpression(entry.name);
  if (tree?.kind === 'path' && tree.start.kind === 'body' && problems.length === 0) return { path: tree };
  const message = `"${entry.name}" is not a path`;
  const advice = 'A path begins with $: $.order.note, $.items[0].count.';
  const range = [0, entry.name.length] as const;
  return { source: sourceOf(entry), problem: { code: 'invalid-path', range, message, advice } };
}

function noJson({ message, offset }: Readonly<{ message: string; offset: number }>): string {
  return `The file is not JSON: ${message}, at character ${offset + 1}`;
}

const NOT_UTF8 = 'The file is not UTF-8, and JSON is (RFC 8259 section 8.1)';

/** Puts new texts into the places of others, from the last to the first, so that places stay what they are. */
function replaced(text: string, changes: readonly Change[]): string {
  const inOrder = [...changes].sort((a, b) => b.span[0] - a.span[0]);
  return inOrder.reduce((before, { span: [from, to], json }) => before.slice(0, from) + json + before.slice(to), text);
}
