import { XmlNode, xmlText } from './xml.ts';
import { writeJson, dateTimeText, durationText } from './json-write.ts';
import { Bytes, DateTime, Duration, isList, isObject, typeOf, Mask, type Maybe, type ValueType } from './value.ts';

/** A value as messages show it: texts in single quotes, long ones cut, big lists and objects by their size. */
// eslint-disable-next-line complexity -- a branch for each type
export function showValue(value: Maybe, maxLength = 120): string {
  if (value === undefined) return 'nothing';
  if (typeof value === 'string') return cutAt(`'${value.replaceAll("'", "\\'")}'`, maxLength);
  if (value instanceof Mask) return value.toString();
  if (value instanceof DateTime) return dateTimeText(value);
  if (value instanceof Duration) return durationText(value);
  if (value instanceof XmlNode) return cutAt(xmlText(value), maxLength);
  if (value instanceof Bytes) return counted(value.data.length, 'byte');
  if (isList(value) && value.length > 20) return counted(value.length, 'item');
  if (isObject(value) && Object.keys(value).length > 40) return counted(Object.keys(value).length, 'member');
  const text = writeJson(value);
  if (text.length <= maxLength) return text;
  if (isList(value)) return counted(value.length, 'item');
  if (isObject(value)) return `an object with ${nameList(Object.keys(value))}`;
  return cutAt(text, maxLength);
}

/** A value in as few words as fit beside a call: `6 items`, `'J-884'`. */
export function showBriefly(value: Maybe): string {
  if (isList(value)) return counted(value.length, 'item');
  if (isObject(value)) return counted(Object.keys(value).length, 'member');
  return showValue(value, 32);
}

/** The kind of a value with its article: `a text`, `an object`, `null`, `bytes`. */
export function aType(value: Maybe): string {
  return articled(typeOf(value));
}

/** A type with its article. */
export function articled(type: ValueType): string {
  if (type === 'null' || type === 'bytes' || type === 'nothing') return type;
  return /^[aeiou]/.test(type) ? `an ${type}` : `a ${type}`;
}

/** `1 item`, `2 items`: the count with its noun. */
export function counted(count: number, noun: string, plural = `${noun}s`): string {
  return `${grouped(count)} ${count === 1 ? noun : plural}`;
}

/** `26,000`: digits in groups of three. By hand, since the platform's own formatting takes longer to load than a start. */
export function grouped(count: number): string {
  return String(count).replace(/\B(?=(\d{3})+$)/g, ',');
}

/** The first few names, and how many more there are. */
export function nameList(names: readonly string[], most = 8): string {
  const shown = names.slice(0, most).map((name) => (/^[\w-]+$/.test(name) ? name : JSON.stringify(name)));
  const rest = names.length - shown.length;
  if (shown.length === 0) return 'no members';
  return rest > 0 ? `${shown.join(', ')} and ${rest} more` : shown.join(', ');
}

/** A text of at most so many characters; what is left out is shown by a sign, by which secrets that are cut off are found. */
export function cutAt(text: string, maxLength: number): string {
  if (text.length <= maxLength) return text;
  return `${text.slice(0, maxLength - 1).replace(/[\ud800-\udbff]$/, '')}…`;
}

/** `84 ms`, `6.2 s`, `2 min 5 s`. */
export function spent(milliseconds: number): string {
  if (milliseconds < 1000) return `${Math.round(milliseconds)} ms`;
  if (milliseconds < 60_000) return `${(milliseconds / 1000).toFixed(1)} s`;
  if (milliseconds >= 3_600_000) {
    const minutes = Math.round(milliseconds / 60_000);
    return `${Math.floor(minutes / 60)} h${minutes % 60 === 0 ? '' : ` ${minutes % 60} min`}`;
  }
  const seconds = Math.round(milliseconds / 1000);
  const rest = seconds % 60;
  return `${Math.floor(seconds / 60)} min${rest === 0 ? '' : ` ${rest} s`}`;
}
