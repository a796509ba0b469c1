import type { Clock } from '../core/ports.ts';

/** The machine's own clocks. */
export const systemClock: Clock = {
  nowMs: () => Date.now(),
  monotonicMs: () => performance.now(),
};
