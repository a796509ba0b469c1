import { Session, type Profiler } from 'node:inspector';
import { setFlagsFromString } from 'node:v8';

/**
 * How many blocks of the project's code a piece of work runs through, counted by the engine itself: a measure of effort
 * that a busy machine does not change.
 */
export function stepsOf(work: () => void): number {
  const session = new Session();
  session.connect();
  session.post('Profiler.enable');
  // Blocks that run while the engine optimises their function would be lost from the count.
  setFlagsFromString('--no-opt');
  setFlagsFromString('--no-maglev');
  session.post('Profiler.startPreciseCoverage', { callCount: true, detailed: true });
  work();
  let result: Profiler.ScriptCoverage[] = [];
  session.post('Profiler.takePreciseCoverage', (_error, taken) => (result = taken.result));
  session.post('Profiler.stopPreciseCoverage');
  session.disconnect();
  setFlagsFromString('--opt');
  return result
    .filter(({ url }) => url.includes('/src/'))
    .flatMap(({ functions }) => functions.flatMap(({ ranges }) => ranges.map(({ count }) => count)))
    .reduce((sum, count) => sum + count, 0);
}

/** By how much the effort grows when the size doubles: 2 where it is linear, 4 where it is quadratic. */
export function growthOf(work: (size: number) => void, size: number): number {
  work(size);
  return stepsOf(() => work(2 * size)) / stepsOf(() => work(size));
}
