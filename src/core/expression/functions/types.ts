import { readCsv } from '../../value/csv.ts';
import { isNumber, parseInteger, parseNumber } from '../../value/numbers.ts';
import { readJson } from '../../value/json-read.ts';
import { showValue } from '../../value/show.ts';
import { typeOf, numberOf, type Maybe, type Value } from '../../value/value.ts';
import { writeJson } from '../../value/json-write.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { anyValue, maybeValue, numberOrText, optional, textValue } from './parameters.ts';
import { textOf } from '../../value/text.ts';

/** From one kind of value to another; nothing converts unless one of these is called. */
export const types: readonly FunctionDefinition[] = [
  {
    name: 'string',
    parameters: [anyValue()],
    result: 'string',
    errors: 'The value cannot be a string: null, an array, an object, a duration, bytes.',
    about: 'A number, boolean or date-time as a string; a number keeps its digits as they came.',
    alias: ['str', 'to_string', 'tostring'],
    example: ['string($.arrivals[0].draught)', "'6.5'"],
    evaluate: (value: Value) => {
      const text = textOf(value);
      if (typeof text === 'string') return text;
      throw new FunctionFault(`string() cannot represent ${text.what}`, text.advice);
    },
  },
  {
    name: 'number',
    parameters: [numberOrText()],
    result: 'number',
    errors: "The string is not a number in JSON's form.",
    about: "The number that a string represents in JSON's form, without anything around it.",
    alias: ['to_number', 'tonumber', 'float', 'parse_number'],
    example: ["number('6.50') == 6.5", 'true'],
    evaluate: (value: Value) => {
      if (isNumber(value)) return value;
      const text = value as string;
      const number = parseNumber(text);
      if (number !== undefined) return number;
      throw new FunctionFault(`'${text}' is not a number`, 'Write numbers as in JSON: -12, 6.5, 1e3.');
    },
  },
  {
    name: 'json',
    parameters: [anyValue()],
    result: 'string',
    about: 'A value as JSON on one line.',
    alias: ['to_json', 'stringify', 'json_encode', 'dumps'],
    example: ['json($.arrivals[1].berth)', "'null'"],
    evaluate: (value: Value) => writeJson(value),
  },
  {
    name: 'integer',
    parameters: [numberOrText()],
    result: 'number',
    errors: 'The string is not a whole number.',
    about: 'The whole number that a string represents; a number without its fraction.',
    alias: ['int', 'to_int', 'truncate', 'floor'],
    example: ["integer('12') + integer(3.9)", '15'],
    evaluate: (value: Value) => {
      const number = numberOf(value);
      if (typeof number === 'bigint') return number;
      if (number !== undefined) return Math.trunc(number) || 0;
      const read = parseInteger(value as string);
      if (read !== undefined) return read;
      throw new FunctionFault(`'${value as string}' is not a whole number`);
    },
  },
  {
    name: 'boolean',
    parameters: [anyValue()],
    result: 'boolean',
    errors: "The string is neither 'true' nor 'false'.",
    about: "The boolean that the string 'true' or 'false' represents.",
    alias: ['bool', 'to_boolean', 'to_bool'],
    example: ["boolean('true')", 'true'],
    evaluate: (value: Value) => {
      if (typeof value === 'boolean') return value;
      if (value === 'true' || value === 'false') return value === 'true';
      throw new FunctionFault(`boolean() takes 'true' or 'false', not ${showValue(value)}`);
    },
  },
  {
    name: 'parse_json',
    parameters: [textValue()],
    result: undefined,
    errors: 'The string is not JSON.',
    about: 'The value that a JSON string represents.',
    alias: ['from_json', 'json_parse', 'json_decode', 'loads'],
    example: ["parse_json('[1, 2]')[1]", '2'],
    evaluate: (text: string) => {
      const read = readJson(text);
      if (read.ok) return read.value;
      throw new FunctionFault(`This is not JSON: ${read.message}, at character ${read.offset + 1}`);
    },
  },
  {
    name: 'parse_csv',
    parameters: [textValue(), optional(textValue('separator'))],
    result: 'array',
    errors: 'The string is not CSV, or a row has more or fewer cells than the header.',
    about: 'The rows of CSV (RFC 4180) with a header row, each an object of strings by column.',
    alias: ['from_csv', 'csv', 'csv_parse'],
    example: ["parse_csv('berth,metres\\nN1,120')", '[parse_json(\'{"berth": "N1", "metres": "120"}\')]'],
    evaluate: (text: string, separator = ',') => {
      try {
        return readCsv(text, { separator });
      } catch (error) {
        throw new FunctionFault(`This is not CSV: ${(error as Error).message}`);
      }
    },
  },
  {
    name: 'type_of',
    parameters: [maybeValue()],
    result: 'string',
    about:
      "The type of a value: 'string', 'number', 'boolean', 'null', 'array', 'object', 'duration', 'date-time', 'bytes', 'node', or 'nothing'.",
    alias: ['type', 'typeof', 'instance_of', 'datatype'],
    example: ['type_of($.arrivals[1].berth)', "'null'"],
    evaluate: (value: Maybe) => typeOf(value),
  },
];
