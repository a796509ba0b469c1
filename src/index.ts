/**
 * Batharon as a library: load a project and its chains, check them, run one, read a journal. What the commands do beside
 * that is the command line's own.
 */
export { loadProject, type LoadedProject, type LoadedChainFile } from './library/load.ts';
export { runLoaded, type RunSettings, type LibraryRun } from './library/run.ts';
export { openJournal, type Journal } from './library/journal.ts';
export { reportFormats } from './core/report/formats/list.ts';
export type { Diagnostic } from './core/diagnostics/source.ts';
export type { JournalEvent, EventOf } from './core/journal/events.ts';
export type { CallSummary } from './core/report/call-summary.ts';
export type { RunSummary } from './core/report/run-summary.ts';
export type { Value } from './core/value/value.ts';
