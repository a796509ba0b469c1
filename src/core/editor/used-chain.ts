import type { Chain } from '../chain/model.ts';
import type { Range } from '../diagnostics/problem.ts';
import type { Completion, Editing } from './completion.ts';

/** The chain that the step around the cursor uses. */
export function usedChain({ cursor, around }: Editing): Chain | undefined {
  const file = cursor.around.findLast(({ keys }) => keys.has('chain'))?.keys.get('chain');
  return file === undefined || file === '' ? undefined : around.chainAt(file.replace(/^(['"])(.*)\1$/, '$2'));
}

/** Names under which outputs of a chain may be kept: their own. */
export function outputKeys(used: Chain, written: ReadonlySet<string>, range: Range): readonly Completion[] {
  return used.outputs
    .filter(({ name }) => !written.has(name))
    .map(({ name, value }) => ({
      label: name,
      sort: 'key',
      detail: `output of ${used.name}: ${value.source.text.trim()}`,
      range,
      insert: `${name}: outputs.${name}`,
    }));
}
