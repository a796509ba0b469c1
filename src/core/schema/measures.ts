import * as z from 'zod';
import { rateLimitOf, readRateLimit, readResets } from '../pacing/rate-limit.ts';
import { Duration, type Value } from '../value/value.ts';
import { zoneProblem } from '../value/zones.ts';
import { parseExpression } from '../expression/parse.ts';
import { scalarValue } from '../yaml/scalar.ts';
import { leaf, reportAt } from './leaf.ts';

/** A number such as a port or a count. */
export const wholeNumber = (what = 'a whole number') =>
  leaf(
    what,
    (scalar, reading) => {
      const value = scalarValue(scalar);
      if (typeof value === 'number' && Number.isInteger(value) && value >= 0) return value;
      reportAt(reading, scalar, 'wrong-type', `This takes ${what}, not "${scalar.source.text}"`);
      return undefined;
    },
    { type: 'integer', minimum: 0 },
  );

/** A length of time such as `10s`, in milliseconds. */
export const duration = () =>
  leaf(
    'a duration such as 10s',
    (scalar, reading) => {
      const value = parseMeasure(scalar.source.text);
      if (value instanceof Duration && value.milliseconds > 0) return value.milliseconds;
      reportAt(
        reading,
        scalar,
        'invalid-duration',
        `"${scalar.source.text}" is not a duration`,
        'A duration is a number and ms, s, m, h or d: 250ms, 1.5s, 2m.',
      );
      return undefined;
    },
    { type: 'string', pattern: '^[0-9]+([.][0-9]+)?(ms|s|m|h|d)$' },
  );

/** A size such as `64MiB`, in bytes. */
export const byteSize = () =>
  leaf(
    'a size such as 64MiB',
    (scalar, reading) => {
      const { tree } = parseExpression(scalar.source.text);
      const value = tree?.kind === 'literal' ? tree.value : undefined;
      if (typeof value === 'number' && value > 0) return value;
      const advice = 'A size is a number and B, kB, MB, GB, KiB, MiB or GiB: 64MiB.';
      reportAt(reading, scalar, 'invalid-size', `"${scalar.source.text}" is not a size`, advice);
      return undefined;
    },
    { type: 'string', pattern: '^[0-9]+([.][0-9]+)?(B|kB|MB|GB|KiB|MiB|GiB)$' },
  );

function parseMeasure(written: string): Value | undefined {
  const { tree } = parseExpression(written);
  return tree?.kind === 'literal' ? tree.value : undefined;
}

/** A pause between looks or rounds: from a first length to a last, doubling, in milliseconds. */
export type Pause = Readonly<{ firstMs: number; lastMs: number }>;

/** `2s`, or `1s to 30s`: a pause that stays, or doubles from the first to the last. In milliseconds. */
export const pause = () =>
  leaf(
    'a duration such as 2s, or two such as 1s to 30s',
    (scalar, reading) => {
      const [first, last = first] = scalar.source.text.split(/\s+to\s+/).map(parseMeasure);
      const isPause = first instanceof Duration && last instanceof Duration && first.milliseconds > 0;
      if (isPause && last.milliseconds >= first.milliseconds) {
        return { firstMs: first.milliseconds, lastMs: last.milliseconds };
      }
      const message = `"${scalar.source.text}" is neither a duration nor a range of durations`;
      reportAt(reading, scalar, 'invalid-range', message, 'Write 2s, or 1s to 30s with the shorter duration first.');
      return undefined;
    },
    { type: 'string' },
  );

/** `8/s`, or several: how fast something may be called. */
export const rateLimit = () =>
  z.union([rateLimitEntry().transform((one) => one && [one]), z.array(rateLimitEntry())]).transform((entries) => {
    const said = (entries ?? []).filter((each) => each !== undefined);
    return said.length === 0 ? undefined : rateLimitOf(said);
  });

const rateLimitEntry = () =>
  leaf(
    'a rate limit such as 8/s or 1000/day',
    (scalar, reading) => {
      const read = readRateLimit(scalar.source.text);
      const advice =
        'A rate limit is a number of requests per s, min, h, day or month: 8/s, 100/min, 1000/day. Several are written as an array.';
      if (!read) reportAt(reading, scalar, 'invalid-rate', `"${scalar.source.text}" is not a rate limit`, advice);
      return read;
    },
    { type: 'string', pattern: '^[1-9][0-9]* */ *(s|min|h|day|month)$' },
  );

/** `00:00 UTC`: when quotas of days and months begin anew. */
export const resets = () =>
  leaf(
    'a time of day and a zone such as 00:00 UTC',
    (scalar, reading) => {
      const read = readResets(scalar.source.text);
      const advice = 'Write hours, minutes and a zone: "00:00 UTC", "06:30 Europe/Lisbon".';
      if (!read)
        reportAt(reading, scalar, 'invalid-time', `"${scalar.source.text}" is not a time of day with a zone`, advice);
      const problem = read && zoneProblem(read.zone);
      if (problem) reportAt(reading, scalar, problem.code, problem.message, problem.advice);
      return problem ? undefined : read;
    },
    { type: 'string' },
  );
