import { Duration, type Value } from '../value/value.ts';
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
      reportAt(reading, scalar, 'wrong-kind', `This takes ${what}, and this is "${scalar.source.text}"`);
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
        'bad-measure',
        `"${scalar.source.text}" is no duration`,
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
      reportAt(reading, scalar, 'bad-measure', `"${scalar.source.text}" is no size`, advice);
      return undefined;
    },
    { type: 'string', pattern: '^[0-9]+([.][0-9]+)?(B|kB|MB|GB|KiB|MiB|GiB)$' },
  );

function parseMeasure(written: string): Value | undefined {
  const { tree } = parseExpression(written);
  return tree?.kind === 'literal' ? tree.value : undefined;
}

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
      const message = `"${scalar.source.text}" is no pause`;
      reportAt(reading, scalar, 'bad-measure', message, 'As in 2s, or 1s to 30s: the shorter one first.');
      return undefined;
    },
    { type: 'string' },
  );
