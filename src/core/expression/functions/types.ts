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
    errors: 'The value has no form as text: null, a list, an object, a duration, bytes.',
    about: 'A number, a condition or a date-time as text; a number in the digits in which it came.',
    alias: ['str', 'to_string', 'tostring'],
    example: ['string($.arrivals[0].draught)', "'6.5'"],
    evaluate: (value: Value) => {
      const text = textOf(value);
      if (typeof text === 'string') return text;
      throw new FunctionFault(`text() has no form for ${text.what}`, text.advice);
    },
  },
  {
    name: 'number',
    parameters: [numberOrText()],
    result: 'number',
    errors: 'The text is no number in the form of JSON.',
    about: 'A text as a number; a number as it is. JSON’s form of numbers, with nothing around it.',
    alias: ['to_number', 'tonumber', 'float', 'parse_number'],
    example: ["number('6.50') == 6.5", 'true'],
    evaluate: (value: Value) => {
      if (isNumber(value)) return value;
      const text = value as string;
      const number = parseNumber(text);
      if (number !== undefined) return number;
      throw new FunctionFault(`'${text}' is no number`, 'A number is written as in JSON: -12, 6.5, 1e3.');
    },
  },
  {
    name: 'json',
    parameters: [anyValue()],
    result: 'string',
    about: 'A value as JSON text on one line.',
    alias: ['to_json', 'stringify', 'json_encode', 'dumps'],
    example: ['json($.arrivals[1].berth)', "'null'"],
    evaluate: (value: Value) => writeJson(value),
  },
  {
    name: 'integer',
    parameters: [numberOrText()],
    result: 'number',
    errors: 'The text is no whole number.',
    about: 'A text as a whole number; a number without its fraction, which is cut off.',
    alias: ['int', 'to_int', 'truncate', 'floor'],
    example: ["integer('12') + integer(3.9)", '15'],
    evaluate: (value: Value) => {
      const number = numberOf(value);
      if (typeof number === 'bigint') return number;
      if (number !== undefined) return Math.trunc(number) || 0;
      const read = parseInteger(value as string);
      if (read !== undefined) return read;
      throw new FunctionFault(`'${value as string}' is no whole number`);
    },
  },
  {
    name: 'boolean',
    parameters: [anyValue()],
    result: 'boolean',
    errors: "The text is neither 'true' nor 'false'.",
    about: "The texts 'true' and 'false' as conditions; a condition as it is.",
    alias: ['bool', 'to_boolean', 'to_bool'],
    example: ["boolean('true')", 'true'],
    evaluate: (value: Value) => {
      if (typeof value === 'boolean') return value;
      if (value === 'true' || value === 'false') return value === 'true';
      throw new FunctionFault(`boolean() takes 'true' or 'false', and this is ${showValue(value)}`);
    },
  },
  {
    name: 'parse_json',
    parameters: [textValue()],
    result: undefined,
    errors: 'The text is no JSON.',
    about: 'The value that a JSON text stands for.',
    alias: ['from_json', 'json_parse', 'json_decode', 'loads'],
    example: ["parse_json('[1, 2]')[1]", '2'],
    evaluate: (text: string) => {
      const read = readJson(text);
      if (read.ok) return read.value;
      throw new FunctionFault(`This is no JSON: ${read.message}, at character ${read.offset + 1}`);
    },
  },
  {
    name: 'parse_csv',
    parameters: [textValue(), optional(textValue('separator'))],
    result: 'array',
    errors: 'The text is no CSV, or a row has more or fewer cells than the header.',
    about: 'The rows of a CSV text (RFC 4180) with a header row, each an object of texts by column.',
    alias: ['from_csv', 'csv', 'csv_parse'],
    example: ["parse_csv('berth,metres\\nN1,120')", '[parse_json(\'{"berth": "N1", "metres": "120"}\')]'],
    evaluate: (text: string, separator = ',') => {
      try {
        return readCsv(text, { separator });
      } catch (error) {
        throw new FunctionFault(`This is no CSV: ${(error as Error).message}`);
      }
    },
  },
  {
    name: 'type_of',
    parameters: [maybeValue()],
    result: 'string',
    about:
      "What a value is: 'text', 'number', 'boolean', 'null', 'list', 'object', 'duration', 'date-time', 'bytes', 'node', or 'nothing'.",
    alias: ['type', 'typeof', 'instance_of', 'datatype'],
    example: ['type_of($.arrivals[1].berth)', "'null'"],
    evaluate: (value: Maybe) => typeOf(value),
  },
];
