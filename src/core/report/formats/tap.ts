import { failureLines, reasonOf } from '../failure-lines.ts';
import { stableName, type CallSummary, type RunSummary } from '../run-summary.ts';
import type { ReportFormat } from './definition.ts';

/** The Test Anything Protocol, version 14: a test for each chain, with its calls as subtests. */
export const tap: ReportFormat = {
  kind: 'tap',
  about: 'TAP 14, a test for each chain with its calls as subtests',
  render: (runs) => [`TAP version 14\n1..${runs.length}\n`, ...runs.map(test)],
};

function test(run: RunSummary, i: number): string {
  const points = [
    ...run.calls.map((call, k) => point(call, k + 1)),
    ...run.others.map(
      ({ name, failure }, k) =>
        `not ok ${run.calls.length + k + 1} - ${described(name)}\n${details(reasonOf(failure), failureLines(failure))}`,
    ),
  ];
  const inside = [`# Subtest: ${described(run.name)}`, `1..${points.length}`, ...points]
    .join('\n')
    .replace(/^(?=.)/gm, '    ');
  const word = run.outcome === 'passed' ? 'ok' : 'not ok';
  return `${inside}\n${word} ${i + 1} - ${described(run.name)}${run.outcome === 'open' ? ' # TODO the run has not ended' : ''}\n`;
}

function point(call: CallSummary, number: number): string {
  const name = described(stableName(call));
  if (call.failure) return `not ok ${number} - ${name}\n${details(reasonOf(call.failure), failureLines(call.failure))}`;
  const skipped = call.hasPassed ? '' : ` # SKIP ${described(call.why ?? call.outcome)}`;
  return `ok ${number} - ${name}${skipped}`;
}

/** A YAML block, its texts as JSON, which is YAML too. */
function details(message: string, lines: readonly string[]): string {
  return [
    '  ---',
    `  message: ${JSON.stringify(message)}`,
    '  details:',
    ...lines.map((line) => `    - ${JSON.stringify(line)}`),
    '  ...',
  ].join('\n');
}

/** A number sign begins a directive, and a backslash takes its meaning away. */
function described(text: string): string {
  return text.replace(/[\\#]/g, '\\$&').replace(/\s+/g, ' ');
}
