import type { Chain, Step } from '../chain/model.ts';
import { allPartsOf } from '../chain/steps/inside.ts';
import type { Range } from '../diagnostics/problem.ts';
import { endOf, endOfEntry } from '../yaml/edit.ts';
import { entryOf, type YamlNode } from '../yaml/tree.ts';
import { readYaml } from '../yaml/read.ts';
import type { SourceFile } from '../diagnostics/source.ts';
import { stepKinds } from '../chain/steps/list.ts';

/** A part of a file in its outline. `range` is all of it, `name` that by which it is known. */
export type OutlineEntry = Readonly<{
  label: string;
  detail: string;
  sort: 'inputs' | 'input' | 'call' | 'loop' | 'branch' | 'step' | 'outputs' | 'output' | 'api';
  range: Range;
  name: Range;
  inside: readonly OutlineEntry[];
}>;

/** The outline of a chain or project file, from the tree alone: it is there however little of the rest makes sense. */
export function outlineOf(file: SourceFile): readonly OutlineEntry[] {
  const tree = readYaml({ file, report: () => {} });
  if (tree?.kind !== 'map') return [];
  return tree.entries.flatMap((of): readonly OutlineEntry[] => {
    const { key, keyRange, value } = of;
    const entry = (sort: OutlineEntry['sort'], inside: readonly OutlineEntry[]): OutlineEntry => ({
      label: key,
      detail: '',
      sort,
      range: [keyRange[0], endOfEntry(of)],
      name: keyRange,
      inside,
    });
    if (key === 'steps' || key === 'cleanup') return [entry('step', stepsIn(value))];
    if (key === 'inputs') return [entry('inputs', namesIn(value, 'input'))];
    if (key === 'outputs') return [entry('outputs', namesIn(value, 'output'))];
    return key === 'apis' ? namesIn(value, 'api') : [];
  });
}

function namesIn(node: YamlNode, sort: OutlineEntry['sort']): readonly OutlineEntry[] {
  if (node.kind !== 'map') return [];
  return node.entries.map((of) => {
    const { key, keyRange, value } = of;
    const detail = value.kind === 'scalar' ? value.source.text : '';
    return {
      label: key,
      detail,
      sort,
      range: [keyRange[0], endOfEntry(of)],
      name: keyRange,
      inside: [],
    };
  });
}

const SORTS: Readonly<Record<string, OutlineEntry['sort']>> = {
  call: 'call',
  each: 'loop',
  repeat: 'loop',
  parallel: 'loop',
  if: 'branch',
};

function stepsIn(node: YamlNode): readonly OutlineEntry[] {
  if (node.kind !== 'list') return [];
  return node.items.flatMap((item): readonly OutlineEntry[] => {
    if (item.kind !== 'map') return [];
    const kind = stepKinds.find(({ key }) => entryOf(item, key));
    const head = kind && entryOf(item, kind.key);
    if (!head) return [];
    const word = head.value.kind === 'scalar' ? head.value.source.text : '';
    const request = entryOf(item, 'request')?.value;
    const isName = word !== '' && kind.key === 'call';
    const inside = item.entries.flatMap(({ value }) => stepsIn(value));
    return [
      {
        label: isName ? word : `${kind.key} ${word}`.trim(),
        detail: request?.kind === 'scalar' ? request.source.text : '',
        sort: SORTS[kind.key] ?? 'step',
        range: [item.range[0], endOf(item)],
        name: head.keyRange,
        inside,
      },
    ];
  });
}

/** Names of files in a chain that lead to those files, with their places. */
export function linksOf(chain: Chain, steps: readonly Step[]): readonly Readonly<{ range: Range; file: string }>[] {
  const whole = (source: { text: string; locate(range: Range): Range }) => ({
    range: source.locate([0, source.text.length]),
    file: source.text,
  });
  const choices = chain.inputs.flatMap(({ choicesFrom }) => (choicesFrom ? [whole(choicesFrom.chain)] : []));
  const inSteps = steps.flatMap((step) =>
    allPartsOf(step).flatMap((part) => {
      if (part.sort === 'file') return [whole(part.source)];
      const isRead = part.sort === 'text' && (part.use === 'file-read' || part.use === 'file-written');
      return isRead && !part.text.source.text.includes('{') ? [whole(part.text.source)] : [];
    }),
  );
  return [...choices, ...inSteps];
}
