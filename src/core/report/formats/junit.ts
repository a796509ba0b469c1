import { failureLines, reasonOf } from '../failure-lines.ts';
import { stepNumber } from '../../journal/address.ts';
import { stableName, type CallSummary } from '../call-summary.ts';
import { type FailureSummary, type RunSummary } from '../run-summary.ts';
import type { ReportFormat } from './definition.ts';

/** JUnit XML: a suite for each chain, a case for each call, its names the same from run to run. */
export const junit: ReportFormat = {
  kind: 'junit',
  about: 'JUnit XML, a suite for each chain and a case for each call',
  render: function* (runs) {
    const all = runs.reduce((sum, { calls, others }) => sum + calls.length + others.length, 0);
    const failures = runs.reduce((sum, run) => sum + failed(run), 0);
    yield `<?xml version="1.0" encoding="UTF-8"?>\n<testsuites tests="${all}" failures="${failures}">\n`;
    for (const run of runs) yield* suite(run);
    yield '</testsuites>\n';
  },
};

function failed({ calls, others }: RunSummary): number {
  return calls.failures.length + others.length;
}

function* suite(run: RunSummary): Iterable<string> {
  const { name, file, startedMs, endedMs, calls, others } = run;
  const head = {
    name,
    tests: calls.length + others.length,
    failures: failed(run),
    skipped: calls.skipped,
    time: seconds(endedMs - startedMs),
    timestamp: new Date(startedMs).toISOString().slice(0, 19),
    file,
  };
  yield `  <testsuite${attributes(head)}>\n`;
  for (const call of calls) yield callCase(call, run);
  for (const each of others) yield otherCase(each, run);
  yield '  </testsuite>\n';
}

function callCase(call: CallSummary, { file }: RunSummary): string {
  const place = call.failure?.place;
  const head = {
    name: stableName(call),
    classname: file,
    time: seconds(call.ms),
    file: place?.file ?? file,
    ...(place ? { line: place.line } : {}),
  };
  const open = `    <testcase${attributes(head)}`;
  if (call.failure) {
    const text = failureLines(call.failure).join('\n');
    return `${open}>\n      <failure${attributes({ message: reasonOf(call.failure) })}>${escaped(text)}</failure>\n    </testcase>\n`;
  }
  if (call.outcome === 'skipped' || call.outcome === 'cut')
    return `${open}>\n      <skipped${attributes({ message: call.why ?? 'the run was stopped' })}/>\n    </testcase>\n`;
  return `${open}/>\n`;
}

function otherCase({ name, address, failure }: FailureSummary, { file }: RunSummary): string {
  const head = {
    name: address === '' ? name : `${name} (${stepNumber(address)})`,
    classname: file,
    file: failure.place?.file ?? file,
  };
  const text = failureLines(failure).join('\n');
  return `    <testcase${attributes(head)}>\n      <failure${attributes({ message: reasonOf(failure) })}>${escaped(text)}</failure>\n    </testcase>\n`;
}

function seconds(ms: number): string {
  return (ms / 1000).toFixed(3);
}

function attributes(of: Readonly<Record<string, string | number>>): string {
  return Object.entries(of)
    .map(([name, value]) => ` ${name}="${escaped(String(value)).replaceAll('\n', '&#10;')}"`)
    .join('');
}

/** As text or attribute of XML 1.0; characters that it forbids are replaced. */
function escaped(text: string): string {
  return text
    .replace(
      /[\0-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g,
      '\ufffd',
    )
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;');
}
