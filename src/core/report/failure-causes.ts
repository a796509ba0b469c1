import type { CallSummary } from './call-summary.ts';
import type { Failure, FailureRow } from './failure.ts';
import type { RunSummary } from './run-summary.ts';

/** A failed step, with its call where it is one. */
export type FailedStep = Readonly<{ name: string; failure: Failure; call: CallSummary | undefined }>;

/** Failures of one step for one reason: all that they have in common is that of the first. */
export type Cause = Readonly<{
  first: FailedStep;
  all: readonly FailedStep[];
  /** What the items have in common that most of those that passed have not. */
  common: readonly string[];
}>;

/** The failures of a run by what caused them, the most frequent cause first. */
export function causesOf({ calls, others, groups }: RunSummary): readonly Cause[] {
  const byCause = new Map<string, FailedStep[]>();
  const failed: readonly FailedStep[] = [
    ...calls.failures.map((call) => ({ name: call.name, failure: call.failure, call })),
    ...others.map(({ name, failure }) => ({ name, failure, call: undefined })),
  ];
  for (const step of failed) {
    const key = causeOf(step);
    const known = byCause.get(key);
    if (known) known.push(step);
    else byCause.set(key, [step]);
  }
  return [...byCause.values()]
    .map((all): Cause => {
      const [first] = all;
      const common =
        all.length > 1 ? groups.filter(({ step }) => step === first!.name).flatMap((each) => each.common) : [];
      return { first: first!, all, common: [...new Set(common)] };
    })
    .sort((a, b) => b.all.length - a.all.length);
}

/** What failures must share to have one cause: the step, what was expected or went wrong, and the status. */
function causeOf({ name, failure: { place, sections }, call }: FailedStep): string {
  const reasons = sections.map((section) =>
    section.kind === 'problem' ? section.problem.code : [section.heading, section.verdict, section.why],
  );
  return JSON.stringify([name, place?.file, place?.line, reasons, call?.status]);
}

/** What the expectations of a failure read. */
export function rowsOf({ failure }: FailedStep): readonly FailureRow[] {
  return failure.sections.flatMap(({ rows }) => rows);
}

/** Rows of a failure that read the same in all others of its cause. */
export function rowsShared(rows: readonly FailureRow[], all: readonly FailedStep[]): readonly FailureRow[] {
  const others = all.map((each) => new Map(rowsOf(each).map(({ label, text }) => [label, text])));
  return rows.filter(({ label, text }) => others.every((texts) => texts.get(label) === text));
}
