import type { Command } from 'commander';
import { reportFormats } from '../../core/report/formats/list.ts';
import type { ExitStatus, Io } from '../io.ts';
import { defaultRecordId, recordId } from '../../runner/record.ts';
import { wantedReport, writeReports } from '../reports.ts';
import { mergedRows } from '../../core/report/merged-rows.ts';
import { RowFault } from '../../core/engine/files/row-fault.ts';
import { counted } from '../../core/value/show.ts';
import { namesWritten, writtenIn } from '../../runner/written-copies.ts';
import { writeResult } from '../results.ts';
import { sized } from '../view/text.ts';
import { reportedSource, sliceRuns } from '../../runner/divisions.ts';
import type { RunSource } from '../../core/report/run-source.ts';
import { CommandError } from '../../runner/command-error.ts';
import { inProject, openWorkspace, type Workspace } from '../../runner/workspace.ts';
import { examples, several, type CommandModule } from './definition.ts';

/** `report [RUN...] KIND=FILE...`: reports of recorded runs. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument(
        '<run-or-report...>',
        `runs (default: the last), and reports as FORMAT=FILE; formats: ${reportFormats.map(({ kind, about }) => `${kind} (${about})`).join(', ')}; rows=FILE puts together what slices wrote to FILE`,
      )
      .option('--run <run>', 'run to report on (repeatable)', several, [])
      .action((said: readonly string[], options: Readonly<{ run: readonly string[] }>) =>
        run((io) => execute([...said, ...options.run], io)),
      );
    examples(sub, 'batharon report html=report.html', 'batharon report 0523-1412-7k junit=results.xml har=-');
  },
};

async function execute(said: readonly string[], io: Io): Promise<ExitStatus> {
  const isRows = (each: string) => each.startsWith('rows=');
  const rows = said.filter(isRows).map((each) => each.slice('rows='.length));
  const reports = said.filter((each) => each.includes('=') && !isRows(each)).map(wantedReport);
  const runs = said.filter((each) => !each.includes('='));
  if (reports.length + rows.length === 0)
    throw new CommandError(
      'invalid-option',
      'No report was requested',
      'Add FORMAT=FILE, for example html=report.html.',
    );
  const workspace = openWorkspace(io.cwd);
  const ids =
    runs.length === 0
      ? [defaultRecordId(workspace, recordId(workspace, 'last'), io)]
      : runs.map((id) => recordId(workspace, id));
  const { recordFolder } = workspace;
  const sources = new Map(ids.flatMap((id) => sourceEntry(reportedSource(recordFolder, id))));
  if (reports.length > 0) writeReports(recordFolder, [...sources.values()], reports, io);
  for (const file of rows) writeRows(workspace, ids[0]!, file, io);
  return 0;
}

/** Slices of one run are one, whichever of them was named. */
function sourceEntry(source: RunSource | undefined): readonly (readonly [string, RunSource])[] {
  return source ? [[source.id, source]] : [];
}

/** What the slices of a run wrote to the file of a name, put together in it. */
function writeRows(workspace: Workspace, id: string, file: string, io: Io): void {
  const { recordFolder } = workspace;
  const runs = sliceRuns(recordFolder, id);
  if (!runs)
    throw new CommandError(
      'invalid-option',
      `The run ${id} is not a slice`,
      'rows=FILE puts together what slices wrote.',
    );
  const name = inProject(workspace, file);
  const texts = runs.flatMap((run) => writtenIn(recordFolder, run, name) ?? []);
  if (texts.length === 0) {
    const names = new Set(runs.flatMap((run) => namesWritten(recordFolder, run)));
    const written = names.size > 0 ? `They wrote ${[...names].join(', ')}.` : 'They wrote no rows to any file.';
    throw new CommandError('file-not-found', `No slice wrote rows to ${name}`, written);
  }
  const size = writeResult(file, [mergedText(name, texts)], io);
  io.exit.err(`wrote   ${file}   ${counted(texts.length, 'slice')} of ${runs.length}   ${sized(size)}\n`);
}

function mergedText(name: string, texts: readonly string[]): string {
  try {
    return mergedRows(name, texts);
  } catch (error) {
    if (error instanceof RowFault) throw new CommandError(error.code, error.message, error.advice);
    throw error;
  }
}
