import { textOf } from '../../value/text.ts';
import { numberOf, type Value } from '../../value/value.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { listValue, optional, textValue, wholeNumber } from './parameters.ts';

/** Functions from text to text. */
export const texts: readonly FunctionDefinition[] = [
  {
    name: 'lower',
    parameters: [textValue()],
    result: 'text',
    about: 'The text in lower case, in the same way in every language.',
    alias: ['lowercase', 'to_lower', 'tolower', 'downcase'],
    example: ['lower($.port)', "'kvitnes'"],
    evaluate: (text: string) => text.toLowerCase(),
  },
  {
    name: 'upper',
    parameters: [textValue()],
    result: 'text',
    about: 'The text in upper case, in the same way in every language.',
    alias: ['uppercase', 'to_upper', 'toupper', 'upcase'],
    example: ['upper($.port)', "'KVITNES'"],
    evaluate: (text: string) => text.toUpperCase(),
  },
  {
    name: 'trimmed',
    parameters: [textValue()],
    result: 'text',
    about: 'The text without blanks and line breaks at its ends.',
    alias: ['trim', 'strip'],
    example: ["trimmed('  N1 ')", "'N1'"],
    evaluate: (text: string) => text.trim(),
  },
  {
    name: 'replaced',
    parameters: [textValue(), textValue('old'), textValue('new')],
    result: 'text',
    about: 'The text with every occurrence of one text replaced by another.',
    alias: ['replace', 'replace_all', 'sub', 'gsub'],
    example: ["replaced($.arrivals[0].vessel, '/', '-')", "'KM 204-5'"],
    evaluate: (text: string, old: string, put: string) => {
      if (old === '') throw new FunctionFault('replaced() looks for a text that is not empty', undefined, 1);
      return text.replaceAll(old, () => put);
    },
  },
  {
    name: 'split',
    parameters: [textValue(), textValue('separator')],
    result: 'list',
    about: 'The parts of a text between separators.',
    alias: ['explode', 'tokenize'],
    example: ["split($.arrivals[0].vessel, ' ')", "['KM', '204/5']"],
    evaluate: (text: string, separator: string) => (separator === '' ? [...text] : text.split(separator)),
  },
  {
    name: 'joined',
    parameters: [listValue(), textValue('separator')],
    result: 'text',
    about: 'The items of a list as one text, with a separator between them.',
    alias: ['join', 'implode'],
    example: ["joined($.arrivals[*].state, ', ')", "'expected, moored'"],
    evaluate: (list: readonly Value[], separator: string) =>
      list
        .map((item, i) => {
          const text = textOf(item);
          if (typeof text === 'string') return text;
          throw new FunctionFault(`joined() has no form for item ${i + 1}, which is ${text.what}`, text.advice);
        })
        .join(separator),
  },
  {
    name: 'starts_with',
    parameters: [textValue(), textValue('start')],
    result: 'condition',
    about: 'Whether a text begins with another.',
    alias: ['startswith', 'has_prefix', 'begins_with'],
    example: ["starts_with($.port, 'Kv')", 'true'],
    evaluate: (text: string, start: string) => text.startsWith(start),
  },
  {
    name: 'ends_with',
    parameters: [textValue(), textValue('end')],
    result: 'condition',
    about: 'Whether a text ends with another.',
    alias: ['endswith', 'has_suffix'],
    example: ["ends_with($.port, 'nes')", 'true'],
    evaluate: (text: string, end: string) => text.endsWith(end),
  },
  {
    name: 'contains',
    parameters: [textValue(), textValue('part')],
    result: 'condition',
    about: 'Whether a text holds another. For an item of a list write x in list.',
    alias: ['includes', 'has_text', 'substring_of'],
    example: ["contains($.port, 'vit')", 'true'],
    evaluate: (text: string, part: string) => text.includes(part),
  },
  {
    name: 'padded',
    parameters: [textValue(), wholeNumber('width'), optional(textValue('sign'))],
    result: 'text',
    about: 'The text filled up at its start to a width, with blanks or another sign; with a negative width at its end.',
    alias: ['pad', 'lpad', 'zfill', 'pad_start'],
    example: ["padded('7', 3, '0')", "'007'"],
    evaluate: (text: string, width: Value, sign = ' ') => {
      const columns = Number(numberOf(width));
      const fill = sign.repeat(Math.max(0, Math.abs(columns) - [...text].length)).slice(0, 1_000_000);
      return columns < 0 ? text + fill : fill + text;
    },
  },
];
