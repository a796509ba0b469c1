import type { Io } from './io.ts';
import { CommandError } from '../runner/command-error.ts';
import { type Workspace } from '../runner/workspace.ts';
import { boundNames, valueOfBound } from '../core/report/bound.ts';
import { showValue } from '../core/value/show.ts';
import type { Value } from '../core/value/value.ts';
import { hasRuns, openRecord, wholeValue } from '../runner/record.ts';

/** The names in the placeholders of a request that the last run bound, and their values; which they are is said. */
export function namesFromLastRun(
  lines: readonly string[],
  workspace: Workspace,
  run: string | undefined,
  io: Io,
): ReadonlyMap<string, Value> {
  const placeholders = lines.join('\n').match(/\{[^{}]*\}/g) ?? [];
  const words = new Set(
    placeholders.flatMap((placeholder) => placeholder.match(/[A-Za-z_\u0080-\uffff][\w\u0080-\uffff]*/g) ?? []),
  );
  words.delete('secret');
  words.delete('setting');
  const values = new Map<string, Value>();
  if (words.size === 0 || (run === undefined && !hasRuns(workspace))) return values;
  const record = openRecord(workspace, run ?? 'last');
  for (const bound of boundNames(record.events)) {
    if (!words.has(bound.name)) continue;
    const value = valueOfBound(bound) ?? wholeValue(bound, record);
    if (value === undefined) {
      throw new CommandError(
        'found-nothing',
        `"${bound.name}" is a secret of run ${record.id}, and secrets are never recorded`,
        'Write {secret.NAME} instead.',
      );
    }
    values.set(bound.name, value);
    io.exit.err(`${bound.name} is ${showValue(value, 60)}, from run ${record.id}\n`);
  }
  return values;
}
