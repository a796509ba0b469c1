import type { Stored } from './records.ts';
import { numberText, readNumber } from '../value/numbers.ts';
import { readJson } from '../value/json-read.ts';
import { base64Text, dateTimeText, durationText, writeJson } from '../value/json-write.ts';
import {
  Bytes,
  DateTime,
  Duration,
  ExactNumber,
  isList,
  isObject,
  typeOf,
  Mask,
  type Maybe,
  type Value,
} from '../value/value.ts';
import { XmlNode, xmlText } from '../value/xml.ts';
import type { Json } from './events.ts';

/** Bytes of JSON up to which a value stands in the event itself. */
export const MAX_INLINE = 4096;

/** The media type of a long list beside the journal: a line of JSON for each item. */
export const LINES_TYPE = 'application/x-ndjson';

/** A value for the journal. A long one that an expression gave over an exchange's body is only pointed to. */
// eslint-disable-next-line complexity -- a branch for each type
export function toStored(value: Maybe, origin?: Readonly<{ exchange: number; expr: string }>): Stored {
  if (value === undefined) return { nothing: true };
  if (value === null || typeof value === 'boolean' || typeof value === 'number') return { json: value };
  if (typeof value === 'bigint') return { as: 'big', text: value.toString() };
  if (value instanceof ExactNumber) return { as: 'decimal', text: numberText(value) };
  if (value instanceof DateTime) return { as: 'date-time', text: dateTimeText(value) };
  if (value instanceof Duration) return { as: 'duration', text: durationText(value) };
  if (value instanceof Mask) return { secret: value.name };
  if (value instanceof XmlNode) return { as: 'node', text: xmlText(value) };
  const text = value instanceof Bytes ? base64Text(value.data) : writeJson(value);
  if (text.length > MAX_INLINE && origin) {
    const length = lengthOf(value);
    return {
      from: origin.exchange,
      expr: origin.expr,
      type: typeOf(value),
      ...(length === undefined ? {} : { length }),
    };
  }
  if (value instanceof Bytes) return { as: 'bytes', text };
  return holdsExact(value) ? { as: 'json', text } : { json: value as Json };
}

/** What a value holds, for those that are only pointed to: items, members, bytes. */
function lengthOf(value: Value): number | undefined {
  if (value instanceof Bytes) return value.data.length;
  return isList(value) ? value.length : isObject(value) ? Object.keys(value).length : undefined;
}

function holdsExact(value: Value): boolean {
  if (typeof value === 'bigint' || value instanceof ExactNumber || value instanceof XmlNode) return true;
  if (isList(value)) return value.some(holdsExact);
  return isObject(value) && Object.values(value).some(holdsExact);
}

/** The value that a record holds; nothing for what only stands elsewhere. */
export function fromStored(stored: Stored): Maybe {
  if ('json' in stored) return stored.json as Value;
  if ('secret' in stored) return new Mask(stored.secret);
  if (!('as' in stored)) return undefined;
  switch (stored.as) {
    case 'big':
    case 'decimal':
      return readNumber(stored.text);
    case 'date-time':
      return new DateTime(Date.parse(stored.text));
    case 'duration':
      return new Duration(Number.parseFloat(stored.text));
    case 'bytes':
    case 'node':
      return stored.text;
    case 'json': {
      const read = readJson(stored.text);
      return read.ok ? read.value : undefined;
    }
  }
}
