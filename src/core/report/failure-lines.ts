import { REPLY_LABELS, type Failure } from './failure.ts';

/** Why a step failed, in one line. */
export function reasonOf(failure: Failure): string {
  const [first] = failure.sections;
  if (!first) return 'failed';
  if (first.kind === 'problem') return `${first.problem.code}: ${first.problem.message}`;
  return [`${first.heading} ${first.verdict}`, first.why].filter(Boolean).join(': ');
}

/** The same with all that is known, in lines of plain text. */
export function failureLines(failure: Failure): readonly string[] {
  const sections = failure.sections.flatMap((section) => {
    const rows = section.rows.map(({ label, text }) => `  ${label}   ${text}`);
    if (section.kind === 'problem') {
      const { code, message, advice } = section.problem;
      return [`${code}: ${message}`, ...rows, ...(advice === undefined ? [] : [advice])];
    }
    const { heading, verdict, because, why, places, advice } = section;
    const wrong = (places?.first ?? []).map(({ path, text }) => `  ${path}   ${text}`);
    return [
      `${heading}   ${verdict}`,
      ...[because, why, advice].filter((each) => each !== undefined),
      ...wrong,
      ...rows,
    ];
  });
  const { reply } = failure;
  return [
    ...sections,
    ...(failure.tries === undefined ? [] : [failure.tries]),
    ...(reply ? [REPLY_LABELS[reply.part], ...reply.text.split('\n').map((line) => `  ${line}`)] : []),
  ];
}
