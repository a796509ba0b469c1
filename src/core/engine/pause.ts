import type { Pause } from '../schema/measures.ts';
import type { StepHost } from './host.ts';

/** How far a pause that doubles may be off, so that several do not ask at the same moment. */
const JITTER = 0.15;

/** The pause after a look or round, counted from 1: always the same, or doubling from the first to the last with jitter. */
export function pauseMs({ firstMs, lastMs }: Pause, count: number, host: StepHost): number {
  if (firstMs === lastMs) return firstMs;
  const plain = Math.min(lastMs, firstMs * 2 ** (count - 1));
  const [byte = 0] = host.fixedBytes(`pause ${count}`, 1);
  return plain * (1 + JITTER * ((byte / 255) * 2 - 1));
}
