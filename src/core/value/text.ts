import { dateTimeText } from './json-write.ts';
import { isNumber, numberText } from './numbers.ts';
import { nodesAsText, NodeSet, XmlNode } from './xml.ts';
import { Bytes, DateTime, Duration, isList, LongBytes, Mask, type Value } from './value.ts';

/** Why a value has no form inside text, and what to write instead. */
export type NoText = Readonly<{ what: string; advice: string }>;

/**
 * A value inside text: text as it is, a number in its source text, `true` and `false`, a date-time as RFC 3339 in
 * UTC, a mask as itself. Everything else has no obvious form and is refused rather than guessed.
 */
// eslint-disable-next-line complexity -- a branch for each type
export function textOf(value: Value): string | NoText {
  if (typeof value === 'string') return value;
  if (isNumber(value)) return numberText(value);
  if (typeof value === 'boolean') return String(value);
  if (value instanceof DateTime) return dateTimeText(value);
  if (value instanceof Mask) return value.toString();
  if (value instanceof XmlNode || value instanceof NodeSet) {
    if (value instanceof NodeSet && value.length !== 1) {
      return { what: `a set of ${value.length} nodes`, advice: 'Write an expression that finds one node.' };
    }
    return nodesAsText(value) as string;
  }
  if (value === null) return { what: 'null', advice: "Write x ?? 'something' for a value that may be null." };
  if (value instanceof Duration) return { what: 'a duration', advice: 'Divide it by its unit: d / 1s.' };
  if (value instanceof LongBytes)
    return { what: 'a large file', advice: 'Large files can only be digested: sha256(x).' };
  if (value instanceof Bytes) return { what: 'bytes', advice: 'Write base64(x).' };
  if (isList(value)) return { what: 'an array', advice: "Write json(x), or joined(x, ', ')." };
  return { what: 'an object', advice: 'Write json(x), or select a member.' };
}
