import type { Command } from 'commander';
import { reportFormats } from '../../core/report/formats/list.ts';
import type { ExitStatus, Io } from '../io.ts';
import { defaultRecordId, recordId } from '../../runner/record.ts';
import { wantedReport, writeReports } from '../reports.ts';
import { reportedSource } from '../../runner/divisions.ts';
import type { RunSource } from '../../core/report/run-source.ts';
import { CommandError } from '../../runner/command-error.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import { examples, several, type CommandModule } from './definition.ts';

/** `report [RUN...] KIND=FILE...`: reports of recorded runs. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument(
        '<run-or-report...>',
        `runs (default: the last), and reports as FORMAT=FILE; formats: ${reportFormats.map(({ kind, about }) => `${kind} (${about})`).join(', ')}`,
      )
      .option('--run <run>', 'run to report on (repeatable)', several, [])
      .action((said: readonly string[], options: Readonly<{ run: readonly string[] }>) =>
        run((io) => execute([...said, ...options.run], io)),
      );
    examples(sub, 'batharon report html=report.html', 'batharon report 0523-1412-7k junit=results.xml har=-');
  },
};

async function execute(said: readonly string[], io: Io): Promise<ExitStatus> {
  const reports = said.filter((each) => each.includes('=')).map(wantedReport);
  const runs = said.filter((each) => !each.includes('='));
  if (reports.length === 0)
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
  writeReports(recordFolder, [...sources.values()], reports, io);
  return 0;
}

/** Slices of one run are one, whichever of them was named. */
function sourceEntry(source: RunSource | undefined): readonly (readonly [string, RunSource])[] {
  return source ? [[source.id, source]] : [];
}
