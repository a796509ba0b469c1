import { isNumber, readNumber } from '../../value/numbers.ts';
import { writeJson } from '../../value/json-write.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { anyValue, numberOrText } from './parameters.ts';
import { textOf } from '../../value/text.ts';

const NUMBER = /^-?(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?$/;

/** From one kind of value to another; nothing converts unless one of these is called. */
export const kinds: readonly FunctionDefinition[] = [
  {
    name: 'text',
    parameters: [anyValue()],
    result: 'text',
    about: 'A number, a condition or a date-time as text; a number in the digits in which it came.',
    alias: ['string', 'str', 'to_string', 'tostring'],
    example: ['text($.arrivals[0].draught)', "'6.5'"],
    evaluate: (value) => {
      const text = textOf(value!);
      if (typeof text === 'string') return text;
      throw new FunctionFault(`text() has no form for ${text.what}`, text.advice);
    },
  },
  {
    name: 'number',
    parameters: [numberOrText()],
    result: 'number',
    about: 'A text as a number; a number as it is. JSON’s form of numbers, with nothing around it.',
    alias: ['to_number', 'tonumber', 'float', 'parse_number', 'int'],
    example: ["number('6.50') == 6.5", 'true'],
    evaluate: (value) => {
      if (isNumber(value!)) return value;
      const text = value as string;
      const number = NUMBER.test(text) ? readNumber(text) : undefined;
      if (number !== undefined) return number;
      throw new FunctionFault(`'${text}' is no number`, 'A number is written as in JSON: -12, 6.5, 1e3.');
    },
  },
  {
    name: 'json',
    parameters: [anyValue()],
    result: 'text',
    about: 'A value as JSON text on one line.',
    alias: ['to_json', 'stringify', 'json_encode', 'dumps'],
    example: ['json($.arrivals[1].berth)', "'null'"],
    evaluate: (value) => writeJson(value!),
  },
];
