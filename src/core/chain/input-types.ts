import { readJson } from '../value/json-read.ts';
import { isNumber, parseInteger, parseNumber } from '../value/numbers.ts';
import { isDate, parseDateTime, parseDuration } from '../value/times.ts';
import { DateTime, Duration, isList, isObject, numberOf, type Value } from '../value/value.ts';
import type { InputType } from './model.ts';

/** One type of input. */
type InputTypeDefinition = Readonly<{
  /** What it takes, with its article: `a date such as 2026-05-23`. */
  what: string;
  /** A value for `--input name=...` in advice. */
  example: string;
  /** A text of the command line, a prompt or a file as a value; `undefined` when it is none of this type. */
  parse(text: string, zone: string): Value | undefined;
  /** A value that a file gives; nothing is converted but the texts that stand for what YAML has no word for. */
  accept(value: Value, zone: string): Value | undefined;
}>;

const plainText = (text: string): Value => text;
const onlyTexts = (value: Value): Value | undefined => (typeof value === 'string' ? value : undefined);

const textual = (what: string, example: string): InputTypeDefinition => ({
  what,
  example,
  parse: plainText,
  accept: onlyTexts,
});

/** Every type of input. */
export const inputTypes: Readonly<Record<InputType, InputTypeDefinition>> = {
  string: textual('a string', 'TEXT'),
  secret: textual('a secret', 'TEXT'),
  file: textual('the name of a file', 'FILE'),
  integer: {
    what: 'a whole number',
    example: '3',
    parse: (text) => parseInteger(text),
    accept: (value) => {
      const number = numberOf(value);
      return typeof number === 'bigint' || Number.isInteger(number) ? value : undefined;
    },
  },
  number: {
    what: 'a number',
    example: '6.5',
    parse: (text) => parseNumber(text),
    accept: (value) => (isNumber(value) ? value : undefined),
  },
  boolean: {
    what: 'true or false',
    example: 'true',
    parse: (text) => (text === 'true' ? true : text === 'false' ? false : undefined),
    accept: (value) => (typeof value === 'boolean' ? value : undefined),
  },
  date: {
    what: 'a date such as 2026-05-23',
    example: '2026-05-23',
    parse: (text) => (isDate(text) ? text : undefined),
    accept: (value) => (typeof value === 'string' && isDate(value) ? value : undefined),
  },
  'date-time': {
    what: 'a date-time such as 2026-05-23T12:00:00Z',
    example: '2026-05-23T12:00:00Z',
    parse: parseDateTime,
    accept: (value, zone) =>
      value instanceof DateTime ? value : typeof value === 'string' ? parseDateTime(value, zone) : undefined,
  },
  duration: {
    what: 'a duration such as 90s',
    example: '90s',
    parse: (text) => parseDuration(text),
    accept: (value) =>
      value instanceof Duration ? value : typeof value === 'string' ? parseDuration(value) : undefined,
  },
  table: {
    what: 'a table: CSV with a header row, NDJSON, or an array in JSON',
    example: '@rows.csv',
    parse: () => undefined,
    accept: (value) => (isList(value) && value.every(isObject) ? value : undefined),
  },
  json: {
    what: 'JSON',
    example: `'{"quay": "N"}'`,
    parse: (text) => {
      const read = readJson(text);
      return read.ok ? read.value : undefined;
    },
    accept: (value) => value,
  },
};
