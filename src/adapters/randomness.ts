import { randomBytes } from 'node:crypto';
import type { Randomness } from '../core/ports.ts';

/** The system's own generator. */
export const systemRandomness: Randomness = { bytes: (count) => new Uint8Array(randomBytes(count)) };
