import type { Command } from 'commander';
import { reportFormats } from '../../core/report/formats/list.ts';
import type { ExitStatus, Io } from '../io.ts';
import { recordId } from '../record.ts';
import { wantedReport, writeReports } from '../reports.ts';
import { UsageFault } from '../usage-fault.ts';
import { openWorkspace } from '../workspace.ts';
import { examples, type CommandModule } from './definition.ts';

/** `report [RUN...] KIND=FILE...`: reports of recorded runs. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('<run-or-report...>', 'runs (the last one without any), and reports as KIND=FILE')
      .addHelpText(
        'after',
        `\nKinds:\n${reportFormats.map(({ kind, about }) => `  ${kind.padEnd(10)} ${about}`).join('\n')}`,
      )
      .action((said: readonly string[]) => run((io) => execute(said, io)));
    examples(sub, 'batharon report html=report.html', 'batharon report 0523-1412-7k junit=results.xml har=-');
  },
};

async function execute(said: readonly string[], io: Io): Promise<ExitStatus> {
  const reports = said.filter((each) => each.includes('=')).map(wantedReport);
  const runs = said.filter((each) => !each.includes('='));
  if (reports.length === 0)
    throw new UsageFault('invalid-option', 'No report is asked for', 'Say KIND=FILE, as in html=report.html.');
  const workspace = openWorkspace(io.cwd);
  const ids = (runs.length === 0 ? ['last'] : runs).map((id) => recordId(workspace, id));
  writeReports(workspace.recordFolder, ids, reports, io);
  return 0;
}
