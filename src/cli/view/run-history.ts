import { counted, spent } from '../../core/value/show.ts';
import type { Palette } from './palette.ts';

/** Eighths of a block, from the lowest to a full one (U+2581 to U+2588). */
const BLOCKS = Array.from({ length: 8 }, (_, i) => String.fromCharCode(0x2581 + i));
const FAILED = '\u00d7';
const OTHER = '\u00b7';

/**
 * Outcomes and durations of runs as one line, the oldest first: a block for each that passed, as high as it took long, a cross
 * for each that failed, a dot for any other.
 */
export function historyLine(
  newestFirst: readonly Readonly<{ result: string; ms: number }>[],
  { good, bad, quiet }: Palette,
): string {
  const passed = newestFirst.filter(({ result }) => result === 'passed');
  const failed = newestFirst.filter(({ result }) => result === 'failed').length;
  const longest = Math.max(1, ...passed.map(({ ms }) => ms));
  const signs = [...newestFirst].reverse().map(({ result, ms }) => {
    if (result === 'passed') return good(BLOCKS[Math.min(7, Math.floor((ms / longest) * 8))]!);
    return result === 'failed' ? bad(FAILED) : quiet(OTHER);
  });
  const times = passed.map(({ ms }) => ms).sort((one, other) => one - other);
  const took = times.length === 0 ? '' : `, in ${spent(times[0]!)} to ${spent(times.at(-1)!)}`;
  const failures = failed === 0 ? '' : `; ${failed} failed`;
  return `${signs.join('')}   ${counted(newestFirst.length, 'run')}: ${passed.length} passed${took}${failures}`;
}
