import type { BodyRef } from '../core/journal/records.ts';
import { sourceOf } from '../core/report/run-source.ts';
import { readRun } from '../adapters/journal-reader.ts';
import type { JournalEvent } from '../core/journal/events.ts';
import { summarizeRun, type RunSummary } from '../core/report/run-summary.ts';
import path from 'node:path';

/** The record of a run, also of one that goes on. */
export type Journal = Readonly<{
  run: string;
  events: readonly JournalEvent[];
  /** A recorded body. */
  body(ref: BodyRef): Uint8Array | undefined;
  /** The run as reports tell it. */
  summary(): RunSummary;
}>;

/** Opens the journal of a run of a project. Nothing when there is none. */
export function openJournal(folder: string, run: string): Journal | undefined {
  const recorded = readRun(path.join(folder, '.batharon'), run);
  if (!recorded) return undefined;
  const { journal, body, other } = recorded;
  return {
    run,
    get events() {
      return recorded.events;
    },
    body,
    summary: () => summarizeRun(sourceOf({ id: run, journal, body, other })),
  };
}
