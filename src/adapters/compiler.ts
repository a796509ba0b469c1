import { setFlagsFromString } from 'node:v8';

let isExpected = false;

/**
 * Tells V8 that there is much to do, and that it should optimise as early as it does by itself: the launcher has told it to
 * wait, which pays in a process that is over in a fifth of a second. And that the old heap is to grow by a fifth at a time
 * before it is collected: 20,000 calls then take 117 MiB instead of 135, in the same time.
 */
export function expectMuchWork(): void {
  const major = Number(process.versions.v8.split('.')[0]);
  if (isExpected || major < 11 || major > 13) return;
  isExpected = true;
  setFlagsFromString('--interrupt-budget=67584');
  setFlagsFromString('--heap-growing-percent=20');
}
