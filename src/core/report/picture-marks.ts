import { isUndo, placeInChain } from '../journal/address.ts';
import type { Picture, RowMark, RunMarks } from '../picture/picture.ts';
import { counted, grouped, spent } from '../value/show.ts';
import type { RunSummary } from './run-summary.ts';

type Tally = { calls: number; failed: number; skipped: number; requests: number; ms: number };

/** What a run came to at each step of a picture. Steps of used chains count for the step that uses them. */
export function marksOf({ rows }: Picture, run: RunSummary): RunMarks {
  const known = new Set(rows.map(({ number }) => number));
  const tallies = new Map<string, Tally>();
  const tallyAt = (address: string): Tally | undefined => {
    let number = placeInChain(address);
    while (!known.has(number) && number.includes('.')) number = number.slice(0, number.lastIndexOf('.'));
    if (!known.has(number)) return undefined;
    let tally = tallies.get(number);
    if (!tally) tallies.set(number, (tally = { calls: 0, failed: 0, skipped: 0, requests: 0, ms: 0 }));
    return tally;
  };
  for (const { address, outcome, hasPassed, ms, waitedMs, exchanges, earlier } of run.calls) {
    const tally = isUndo(address) ? undefined : tallyAt(address);
    if (!tally) continue;
    tally.calls++;
    if (outcome === 'skipped' || outcome === 'cut') tally.skipped++;
    else if (!hasPassed) tally.failed++;
    tally.requests += exchanges.length + earlier.length;
    tally.ms += ms - waitedMs;
  }
  for (const { address } of run.others) {
    const tally = tallyAt(address);
    if (tally && tally.calls === 0) tally.failed++;
  }
  const marks = new Map([...tallies].map(([number, tally]) => [number, markOf(tally)]));
  const { outcome, id, startedMs, endedMs } = run;
  return { heading: `run ${id}: ${outcome}, ${spent(endedMs - startedMs)}`, marks };
}

function markOf({ calls, failed, skipped, requests, ms }: Tally): RowMark {
  const outcome = failed > 0 ? 'failed' : skipped === calls && calls > 0 ? 'skipped' : 'passed';
  const sent = requests > 0 ? [`${counted(requests, 'request')} in ${spent(ms)}`] : [];
  const parts = [
    ...(failed > 0 && calls > 1 ? [`${grouped(failed)} of ${grouped(calls)} failed`] : failed > 0 ? ['failed'] : []),
    ...(failed === 0 && skipped < calls ? [calls > 1 ? `${grouped(calls - skipped)} passed` : 'passed'] : []),
    ...(skipped > 0 ? [calls > 1 ? `${grouped(skipped)} skipped` : 'skipped'] : []),
    ...sent,
  ];
  return { outcome, text: parts.join(', ') };
}
