import type { Totals } from '../journal/records.ts';
import { counted, grouped, spent } from '../value/show.ts';

/** Failures that are not those of expectations, by message code: how many of each. */
type OtherFailures = ReadonlyMap<string, number>;

/** Words for codes of failures, by their number; others are named by their code. */
const WORDS: Readonly<Record<string, (count: number) => string>> = {
  'gave-up': (count) => `${counted(count, 'poll')} gave up`,
  'deadline-passed': (count) => `${counted(count, 'poll')} reached the time limit`,
  'timed-out': (count) => `${counted(count, 'request')} timed out`,
  'no-connection': (count) => `${counted(count, 'connection')} failed`,
  'not-authorized': (count) => `${counted(count, 'request')} refused for the credentials`,
  'found-nothing': (count) => `${counted(count, 'value')} not found`,
  stopped: () => 'ended by a stop step',
};

/**
 * The last line of a run, after the word that says how it ended: `15 calls, 31 expectations; 18 requests in 170 ms`.
 * Where the run failed the figures are those that failed: `1 of 15 calls, 5 of 31 expectations; ...`.
 */
export function summaryOf(totals: Totals, others: OtherFailures, hasFailed: boolean): string {
  const { calls, failed, expects, passed, exchanges, notes = 0, ms } = totals;
  const named = [...others].map(([code, count]) => WORDS[code]?.(count) ?? (count === 1 ? code : `${count} × ${code}`));
  const why = !hasFailed || named.length === 0 ? '' : ` (${named.join(', ')})`;
  const ofCalls = calls === 0 ? 'no calls' : counted(calls, 'call');
  const callWords =
    hasFailed && failed > 0
      ? `${grouped(failed)} of ${ofCalls}`
      : hasFailed && calls > 0
        ? `${ofCalls} passed`
        : ofCalls;
  const requests = exchanges === 0 ? spent(ms) : `${counted(exchanges, 'request')} in ${spent(ms)}`;
  const noteWords = notes > 0 ? `, ${counted(notes, 'note')}` : '';
  return `${callWords}${why}${expectationWords(expects, expects - passed, hasFailed)}${noteWords}; ${requests}${waitedWords(totals)}${contractWords(totals)}`;
}

function expectationWords(expects: number, failed: number, hasFailed: boolean): string {
  if (expects === 0) return '';
  const all = counted(expects, 'expectation');
  if (hasFailed && failed > 0) return `, ${grouped(failed)} of ${all}`;
  return `, ${all}${hasFailed ? ' passed' : ''}`;
}

/** `; contract harbour.yaml: 3 of 14 operations`. */
function contractWords({ contracts = [] }: Totals): string {
  return contracts
    .map(
      ({ file, exercised, of }) => `; contract ${file.split('/').at(-1)}: ${exercised} of ${counted(of, 'operation')}`,
    )
    .join('');
}

const SHORT: Readonly<Record<string, string>> = {
  'rate-limit': 'rate limit',
  'shared-limits': 'shared limits',
  wait: 'steps',
  receive: 'callbacks',
  credential: 'sign-in',
};

/** `, 9.1 s of it waiting (poll 7.0, rate limit 2.1)`: the largest part first, in seconds. */
function waitedWords({ waited }: Totals): string {
  const parts = Object.entries(waited).filter(([, ms]) => ms >= 50);
  if (parts.length === 0) return '';
  const all = parts.reduce((sum, [, ms]) => sum + ms, 0);
  const each = parts
    .sort((left, right) => right[1] - left[1])
    .map(([why, ms]) => `${SHORT[why] ?? why} ${(ms / 1000).toFixed(1)}`);
  return `, ${spent(all)} of it waiting (${each.join(', ')})`;
}
