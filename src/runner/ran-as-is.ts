import { createHash } from 'node:crypto';
import type { SourceFile } from '../core/diagnostics/source.ts';
import type { EventOf } from '../core/journal/events.ts';

/** Whether a file of a project, by its path there, is still what a run read; nothing where the run read no such file. */
export function isAsRun({ files }: EventOf<'run'>, path: string, { text }: SourceFile): boolean | undefined {
  const before = files.find((each) => each.path === path)?.sha256;
  return before === undefined ? undefined : before === createHash('sha256').update(text).digest('hex');
}
