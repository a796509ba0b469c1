import { failureLines, reasonOf } from '../failure-lines.ts';
import { counted } from '../../value/show.ts';
import type { Coverage } from '../coverage.ts';
import { stableName } from '../call-summary.ts';
import { type RunSummary } from '../run-summary.ts';
import { summaryOf } from '../totals.ts';
import type { ReportFormat } from './definition.ts';

/** Failures that are told whole; the others are counted. */
const MOST = 5;

/** Short, for a ticket: what failed and why. */
export const markdown: ReportFormat = {
  kind: 'markdown',
  about: 'short, for a ticket',
  render: (runs, _tool, coverage) => [[...runs.map(section), ...coverage.map(contractSection)].join('\n')],
};

function section(run: RunSummary): string {
  const { name, where, id, outcome, totals, calls, others, groups, startedMs } = run;
  const when = new Date(startedMs).toISOString().slice(0, 16).replace('T', ' ');
  const sum =
    id === ''
      ? 'It could not run'
      : totals
        ? summaryOf(totals, new Map(), outcome === 'failed')
        : counted(calls.length, 'call');
  const failures = [
    ...calls.failures.map((call) => ({ name: stableName(call), call, failure: call.failure })),
    ...others.map((each) => ({ ...each, call: undefined })),
  ];
  const told = failures.slice(0, MOST).map(({ name: what, call, failure }) => {
    const place = failure.place ? ` (\`${failure.place.file}:${failure.place.line}\`)` : '';
    const request = call ? `\`${call.method} ${call.url}\` answered ${call.status ?? 'nothing'}.\n\n` : '';
    return `### ${escaped(what)}${place}\n\n${request}\`\`\`text\n${failureLines(failure).join('\n').replaceAll('```', "'''")}\n\`\`\`\n`;
  });
  const alike = groups.map(
    (group) =>
      `- ${group.step}: ${counted(group.count, 'item')} failed in the same way (${group.items})${group.common.length > 0 ? `; ${group.common.join('; ')}` : ''}`,
  );
  const rest = failures
    .slice(MOST)
    .map(({ name: what, failure }) => `- ${escaped(what)}: ${escaped(reasonOf(failure))}`);
  return [
    `## ${escaped(name)}: ${outcome}`,
    '',
    `${[escaped(where), id === '' ? '' : `run \`${id}\``, `${when} UTC`].filter(Boolean).join(', ')}. ${sum}.`,
    '',
    ...told,
    ...(alike.length > 0 ? [...alike, ''] : []),
    ...(rest.length > 0 ? [`${counted(rest.length, 'more failure')}:`, '', ...rest.slice(0, 20), ''] : []),
  ].join('\n');
}

/** What was exercised of a description, in a few lines. */
function contractSection({ file, exercised, operations }: Coverage): string {
  const names = (all: readonly Readonly<{ name: string }>[]) => all.map(({ name }) => `\`${name}\``).join(', ');
  const seen = operations.filter(({ requests }) => requests > 0);
  const strange = seen.flatMap(({ name, statuses, members }) => {
    const found = [...statuses, ...members].filter(({ isDescribed }) => !isDescribed);
    return found.length === 0 ? [] : [`- ${escaped(name)}: not described: ${names(found)}`];
  });
  const never = operations.filter(({ requests }) => requests === 0);
  return [
    `## Contract ${escaped(file)}: ${exercised} of ${counted(operations.length, 'operation')}`,
    '',
    ...seen.map(({ name, requests, members }) => {
      const missing = members.filter((each) => each.count === 0);
      return `- ${escaped(name)}: ${counted(requests, 'request')}${missing.length > 0 ? `; never seen: ${names(missing)}` : ''}`;
    }),
    ...strange,
    ...(never.length > 0 ? [`- never exercised: ${names(never)}`] : []),
    '',
  ].join('\n');
}

function escaped(text: string): string {
  return text.replace(/[\\`*_[\]<>#|]/g, '\\$&');
}
