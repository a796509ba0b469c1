import { failureLines, reasonOf } from '../failure-lines.ts';
import { stableName, type CallSummary } from '../call-summary.ts';
import { type RunSummary } from '../run-summary.ts';
import type { ReportFormat } from './definition.ts';

/** The Test Anything Protocol, version 14: a test for each chain, with its calls as subtests. */
export const tap: ReportFormat = {
  kind: 'tap',
  about: 'TAP 14, a test for each chain with its calls as subtests',
  render: function* (runs) {
    yield `TAP version 14\n1..${runs.length}\n`;
    for (const [i, run] of runs.entries()) yield* test(run, i);
  },
};

function* test(run: RunSummary, i: number): Iterable<string> {
  const { calls, others } = run;
  yield inside([`# Subtest: ${described(run.name)}`, `1..${calls.length + others.length}`]);
  let number = 0;
  for (const call of calls) yield inside([point(call, ++number)]);
  for (const { name, failure } of others) {
    const lines = details(reasonOf(failure), failureLines(failure));
    yield inside([`not ok ${++number} - ${described(name)}\n${lines}`]);
  }
  const word = run.outcome === 'passed' ? 'ok' : 'not ok';
  yield `${word} ${i + 1} - ${described(run.name)}${run.outcome === 'open' ? ' # TODO the run has not ended' : ''}\n`;
}

/** Lines of a subtest. */
function inside(lines: readonly string[]): string {
  return `${lines.join('\n').replace(/^(?=.)/gm, '    ')}\n`;
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
