import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { readJson } from '../core/value/json-read.ts';
import { writeJson } from '../core/value/json-write.ts';
import { isObject, type ObjectValue, type Value } from '../core/value/value.ts';
import type { MaskedOutput } from './masked-output.ts';

/** Bytes that one chain may remember. */
const MAX_BYTES = 1024 * 1024;

/** What a chain at some deployments remembers from run to run: one file, written in one step. */
export function memoryOf(folder: string, chain: string, deployments: readonly string[], exit: MaskedOutput) {
  const key = createHash('sha256')
    .update([chain, ...deployments].join('\n'))
    .digest('hex')
    .slice(0, 16);
  const name = path.basename(chain).replace(/[^A-Za-z0-9_-]+/g, '-');
  const file = path.join(folder, `${name}-${key}.json`);
  return {
    read: (): ObjectValue => {
      try {
        const json = readJson(readFileSync(file, 'utf8'));
        return json.ok && isObject(json.value) ? json.value : {};
      } catch {
        return {};
      }
    },
    /** Puts new values over those that are remembered; false when they are too long to be kept. */
    write: (before: ObjectValue, values: ReadonlyMap<string, Value>): boolean => {
      const text = `${writeJson({ ...before, ...Object.fromEntries(values) }, 2)}\n`;
      if (text.length > MAX_BYTES) return false;
      exit.writeFile(file, text);
      return true;
    },
  };
}
