import type { Chain } from '../core/chain/model.ts';
import type { KnownName } from '../core/engine/preview.ts';
import { boundNames, valueOfBound } from '../core/report/bound.ts';
import { newestRunOf, openRecord, wholeValue } from './record.ts';
import type { Workspace } from './workspace.ts';

/** The names that a run kept, or the last run of this very chain: they stand for what only a run will bring. */
export function namesOfRun(
  chain: Chain,
  workspace: Workspace,
  run: string | undefined,
): ReadonlyMap<string, KnownName> {
  const names = new Map<string, KnownName>();
  const record = run === undefined ? newestRunOf(workspace, chain.file.path) : openRecord(workspace, run);
  if (!record) return names;
  for (const bound of boundNames(record.events)) {
    const value = bound.call === undefined ? undefined : (valueOfBound(bound) ?? wholeValue(bound, record));
    if (value !== undefined) names.set(bound.name, { value, run: record.id });
  }
  return names;
}
