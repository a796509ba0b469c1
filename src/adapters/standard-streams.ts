import type { Readable, Writable } from 'node:stream';

/**
 * The streams over which a protocol is spoken. Its messages begin with their length, so they cannot be masked on their way;
 * what speaks through them reads no secrets, and records that are masked already.
 */
export function standardStreams(): Readonly<{ input: Readable; output: Writable }> {
  return { input: process.stdin, output: process.stdout };
}
