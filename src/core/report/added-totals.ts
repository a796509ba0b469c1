import type { Totals } from '../journal/records.ts';

/** The sums of the totals of slices; of time what passed from the first to the last event. */
export function addedTotals(all: readonly Totals[], ms: number): Totals {
  const sum = (of: (totals: Totals) => number) => all.reduce((total, each) => total + of(each), 0);
  const waited: Totals['waited'] = {};
  for (const each of all)
    for (const [why, spent] of Object.entries(each.waited) as [keyof Totals['waited'], number][])
      waited[why] = Math.max(waited[why] ?? 0, spent);
  const contracts = all.flatMap((each) => each.contracts ?? []);
  const widest = new Map<string, (typeof contracts)[number]>();
  for (const each of contracts)
    if (each.exercised >= (widest.get(each.file)?.exercised ?? 0)) widest.set(each.file, each);
  return {
    calls: sum(({ calls }) => calls),
    failed: sum(({ failed }) => failed),
    exchanges: sum(({ exchanges }) => exchanges),
    expects: sum(({ expects }) => expects),
    passed: sum(({ passed }) => passed),
    retried: sum(({ retried }) => retried),
    notes: sum(({ notes = 0 }) => notes),
    ...(widest.size > 0 ? { contracts: [...widest.values()] } : {}),
    ms,
    waited,
  };
}
