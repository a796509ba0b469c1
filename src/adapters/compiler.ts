import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';

let collect: ((options: { type: 'minor' }) => void) | undefined;

/**
 * Frees what was used for a moment only. Pieces of a body weigh nothing on the heap, so V8 lets hundreds of them lie before
 * it looks: 500 MB that are saved then take 135 MiB instead of 115.
 */
export function collectYoung(): void {
  if (!collect) {
    setFlagsFromString('--expose-gc');
    collect = runInNewContext('gc') as typeof collect;
  }
  collect!({ type: 'minor' });
}

let isExpected = false;

/**
 * Tells V8 that there is much to do, and that it should optimise as early as it does by itself: the launcher has told it to
 * wait, which pays in a process that is over in a fifth of a second. And that its heaps are to stay small: the old one grows
 * by a fifth before it is collected, the young one not at all. 20,000 calls then take 110 MiB instead of 135, and as long.
 */
export function expectMuchWork(): void {
  const major = Number(process.versions.v8.split('.')[0]);
  // A flag that an engine does not know is complained of: those of Node 20 to 26 know these.
  if (isExpected || major < 11 || major > 14) return;
  isExpected = true;
  if (major === 11) setFlagsFromString('--interrupt-budget=67584');
  setFlagsFromString('--heap-growing-percent=20');
  setFlagsFromString('--semi-space-growth-factor=1');
}
