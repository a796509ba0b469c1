import { sourceOf, type RunSource } from '../core/report/run-source.ts';
import path from 'node:path';
import { coverageOf, type Coverage } from '../core/report/coverage.ts';
import { contractsIn } from '../runner/contracts.ts';
import { readRun } from '../adapters/journal-reader.ts';
import { didYouMean } from '../core/diagnostics/suggest.ts';
import { reportFormats } from '../core/report/formats/list.ts';
import { visibleReport } from '../core/value/visible.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
import { summaryOfUnrun } from '../core/report/not-run.ts';
import { summarizeRun, type RunSummary } from '../core/report/run-summary.ts';
import type { Io } from './io.ts';
import type { Picture } from '../core/picture/picture.ts';
import { picturesFor } from './report-pictures.ts';
import { writeResult } from './results.ts';
import { CommandError } from '../runner/command-error.ts';
import { VERSION } from '../runner/version.ts';
import { sized } from './view/text.ts';

/** A report that was asked for: `html=report.html`; `-` is standard output. */
export type WantedReport = Readonly<{ kind: string; file: string }>;

export function wantedReport(said: string): WantedReport {
  const split = said.indexOf('=');
  const [kind, file] = [said.slice(0, split), said.slice(split + 1)];
  const kinds = reportFormats.map((format) => format.kind);
  if (split > 0 && file !== '' && kinds.includes(kind)) return { kind, file };
  const formats = `The formats are ${kinds.join(', ')}; for example html=report.html.`;
  if (split > 0 && !kinds.includes(kind))
    throw new CommandError('invalid-option', `Unknown report format "${kind}"`, didYouMean(kind, kinds) ?? formats);
  throw new CommandError('invalid-option', `A report is FORMAT=FILE, not "${said}"`, formats);
}

/** A run that a report tells of: its id, or a chain that could not run and why. */
export type Reported =
  string | RunSource | Readonly<{ name: string; file: string; atMs: number; diagnostics: readonly Diagnostic[] }>;

/** Writes reports of runs, from their journals alone, which are not held. */
export function writeReports(
  recordFolder: string,
  reported: readonly Reported[],
  wanted: readonly WantedReport[],
  io: Io,
): void {
  const runs = reported.flatMap((each) => {
    if (typeof each !== 'string')
      return ['events' in each ? summarizeRun(each) : summaryOfUnrun(each, each.diagnostics)];
    const record = readRun(recordFolder, each);
    return record ? [summarizeRun(sourceOf(record))] : [];
  });
  const contractOf = contractsIn(path.dirname(recordFolder));
  const coverage = coverageOf(runs, (file) => {
    const contract = contractOf(file);
    return 'message' in contract ? undefined : contract;
  });
  const pictures = wanted.some(({ kind }) => kind === 'html') ? picturesFor(recordFolder, runs) : undefined;
  for (const { kind, file } of wanted) {
    const pieces = reportPieces(kind, runs, coverage, pictures);
    if (file === '-') {
      for (const piece of pieces) io.exit.out(piece);
      continue;
    }
    const size = writeResult(file, pieces, io);
    io.exit.err(`wrote   ${file}   ${sized(size)}\n`);
  }
}

/** A report in pieces, with nothing in it that could hide or act where it is read. */
function* reportPieces(
  kind: string,
  runs: readonly RunSummary[],
  coverage: readonly Coverage[],
  pictures: ReadonlyMap<string, Picture> | undefined,
): Iterable<string> {
  const isJson = kind === 'json' || kind === 'har';
  const { render } = reportFormats.find((format) => format.kind === kind)!;
  for (const piece of render(runs, `batharon ${VERSION}`, coverage, pictures)) yield visibleReport(piece, isJson);
}
