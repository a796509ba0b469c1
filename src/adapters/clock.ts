import { onAbort } from '../core/abort.ts';
import type { Clock } from '../core/ports.ts';

/** The machine's own clocks. */
export const systemClock: Clock = {
  nowMs: () => Date.now(),
  monotonicMs: () => performance.now(),
  sleep: (milliseconds, signal) =>
    new Promise((resolve) => {
      if (signal.aborted) return resolve();
      const end = performance.now() + milliseconds;
      let timer: NodeJS.Timeout;
      const finish = (): void => {
        clearTimeout(timer);
        forget();
        resolve();
      };
      // A timer takes 31 bits of milliseconds, three and a half weeks.
      const next = (): void => {
        const left = end - performance.now();
        if (left <= 0) finish();
        else timer = setTimeout(next, Math.min(left, 2 ** 31 - 1));
      };
      const forget = onAbort(signal, finish);
      next();
    }),
};
