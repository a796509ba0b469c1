import type { Problem } from '../../diagnostics/problem.ts';
import { diagnosticIn, wholeOf, type Source } from '../../diagnostics/source.ts';
import { locate } from '../../expression/evaluate.ts';
import { frameOf } from '../../expression/frame.ts';
import type { PathNode } from '../../expression/model.ts';
import { parseExpression } from '../../expression/parse.ts';
import { keysOf } from '../../path/normalized.ts';
import { fileName, jsonValue, named, type NamedEntry } from '../../schema/leaves.ts';
import { FillFault, fillFileName, fillJson, type Resolver } from '../../template/fill.ts';
import { utf8Text } from '../../value/utf8.ts';
import { plainTextOf, textsOf, type TextTemplate, type ValueTemplate } from '../../template/template.ts';
import { readJson } from '../../value/json-read.ts';
import { spanAt, type Span } from '../../value/json-spans.ts';
import { joined, opened } from './assemble.ts';
import type { BodyHost, BodyKind, BodyProblem } from './definition.ts';

/** A file, and by path the values that stand in it instead of its own. */
type JsonFile = Readonly<{ main: TextTemplate; set?: readonly NamedEntry<ValueTemplate>[] }>;

/** A JSON file as an API documents it, with values put in by path; every other byte of it stays as it is. */
export const jsonFile: BodyKind<JsonFile, 'set'> = {
  key: 'json-file',
  schema: fileName().describe('A JSON file that is sent as it is, except for what set changes.'),
  also: {
    set: named(jsonValue()).describe(
      'Values to insert into the json-file, by the path of the value that each replaces.',
    ),
  },
  type: () => 'application/json',
  texts: ({ main, set = [] }) => [main, ...set.flatMap(({ value }) => textsOf(value))],
  files: ({ main }) => [main],
  problems: ({ set = [] }) => set.flatMap((entry) => ('problem' in pathOf(entry) ? [pathOf(entry) as never] : [])),
  fileProblems: ({ main, set = [] }, host) => {
    const name = plainTextOf(main);
    const file = name === undefined ? undefined : host.openFile(name);
    if (!file || !('pieces' in file)) return [];
    const text = utf8Text(joined(file.pieces(), file.size));
    if (text === undefined) return [at(main.source, 'not-utf8', NOT_UTF8)];
    const read = readJson(text);
    if (!read.ok) return [at(main.source, 'not-decodable', noJson(read))];
    const frame = frameOf(read.value, () => undefined);
    return set.flatMap((entry) => {
      const path = pathOf(entry);
      if ('problem' in path || locate(path.path, frame).length > 0) return [];
      return [at(sourceOf(entry), 'found-nothing', `${entry.name} found nothing in the file`)];
    });
  },
  build: ({ main, set = [] }, resolver, host) => {
    const text = textOfFile(main, resolver, host);
    const read = readJson(text);
    if (!read.ok) refuse(main.source, 'not-decodable', noJson(read));
    const frame = frameOf(read.value, () => undefined);
    const changes = set.flatMap((entry) => {
      const path = pathOf(entry);
      if ('problem' in path) return [];
      const spans = locate(path.path, frame).map((node) => spanAt(text, keysOf(node))!);
      const json = fillJson(entry.value, resolver);
      if (json === undefined) {
        const advice = 'Write {name ?? null}: a member of the file cannot be removed.';
        refuse(sourceOf(entry), 'found-nothing', `The input for ${entry.name} was not given`, advice);
      }
      if (spans.length === 0) {
        refuse(
          sourceOf(entry),
          'found-nothing',
          `${entry.name} found nothing in the file`,
          'To list its paths: batharon value',
        );
      }
      return spans.map((span) => ({ span, json }));
    });
    return replaced(text, changes);
  },
};

type Entry = NamedEntry<unknown>;

function sourceOf({ file, name, nameRange: [start] }: Entry): Source {
  return { file, text: name, locate: ([from, to]) => [start + from, start + to] };
}

/** The path that is the key of an entry; the text of a key is what stands in the file. */
function pathOf(entry: Entry): Readonly<{ path: PathNode }> | Readonly<{ source: Source; problem: Problem }> {
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

function at(source: Source, code: Problem['code'], message: string): BodyProblem {
  return { source, problem: { code, range: wholeOf(source), message } };
}

function refuse(
  source: Source,
  code: 'not-decodable' | 'found-nothing' | 'not-utf8',
  message: string,
  advice?: string,
): never {
  throw new FillFault(diagnosticIn(source, { code, range: wholeOf(source), message, ...(advice ? { advice } : {}) }));
}

const NOT_UTF8 = 'The file is not UTF-8, and JSON is (RFC 8259 section 8.1)';

function textOfFile(name: TextTemplate, resolver: Resolver, host: BodyHost): string {
  const file = opened(fillFileName(name, resolver, host.namedFiles), name.source, host);
  const text = utf8Text(joined(file.pieces(), file.size));
  return text ?? refuse(name.source, 'not-utf8', NOT_UTF8);
}

/** Puts new texts into the places of others, from the last to the first, so that places stay what they are. */
function replaced(text: string, changes: readonly Readonly<{ span: Span; json: string }>[]): string {
  const inOrder = [...changes].sort((a, b) => b.span[0] - a.span[0]);
  return inOrder.reduce((before, { span: [from, to], json }) => before.slice(0, from) + json + before.slice(to), text);
}
