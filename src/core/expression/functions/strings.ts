import { textOf } from '../../value/text.ts';
import { counted } from '../../value/show.ts';
import { compilePattern } from '../pattern/pattern.ts';
import { numberOf, type Value } from '../../value/value.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { listValue, optional, patternText, textValue, wholeNumber } from './parameters.ts';

/** Characters of a text that is searched (semantics: limits). */
const MAX_SEARCHED = 1024 * 1024;

/** Functions from text to text. */
export const strings: readonly FunctionDefinition[] = [
  {
    name: 'lower',
    parameters: [textValue()],
    result: 'string',
    about: 'The text in lower case, in the same way in every language.',
    alias: ['lowercase', 'to_lower', 'tolower', 'downcase'],
    example: ['lower($.port)', "'kvitnes'"],
    evaluate: (text: string) => text.toLowerCase(),
  },
  {
    name: 'upper',
    parameters: [textValue()],
    result: 'string',
    about: 'The text in upper case, in the same way in every language.',
    alias: ['uppercase', 'to_upper', 'toupper', 'upcase'],
    example: ['upper($.port)', "'KVITNES'"],
    evaluate: (text: string) => text.toUpperCase(),
  },
  {
    name: 'trimmed',
    parameters: [textValue()],
    result: 'string',
    about: 'The text without blanks and line breaks at its ends.',
    alias: ['trim', 'strip'],
    example: ["trimmed('  N1 ')", "'N1'"],
    evaluate: (text: string) => text.trim(),
  },
  {
    name: 'replaced',
    parameters: [textValue(), textValue('old'), textValue('new')],
    result: 'string',
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
    result: 'array',
    about: 'The parts of a text between separators.',
    alias: ['explode', 'tokenize'],
    example: ["split($.arrivals[0].vessel, ' ')", "['KM', '204/5']"],
    evaluate: (text: string, separator: string) => (separator === '' ? [...text] : text.split(separator)),
  },
  {
    name: 'joined',
    parameters: [listValue(), textValue('separator')],
    result: 'string',
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
    name: 'captured',
    parameters: [textValue(), patternText(), optional(wholeNumber())],
    result: 'string',
    errors: 'The pattern is no I-Regexp, has no group of that number, or the text is over 1 MiB.',
    about:
      'The text of a group of the first match of a pattern (RFC 9485): the first group, or the whole match where there is none; nothing without a match.',
    alias: ['capture', 'extract', 'match_group', 'submatch'],
    example: ["captured($.arrivals[0].vessel, '([A-Z]+) ([0-9]+)', 2)", "'204'"],
    evaluate: (text: string, source: string, number?: Value) => {
      const { pattern, problem } = compilePattern(source);
      if (!pattern) throw new FunctionFault(problem.message, problem.advice, 1);
      if (text.length > MAX_SEARCHED) throw new FunctionFault('A text in which a part is searched has at most 1 MiB');
      const wanted = number === undefined ? Math.min(1, pattern.groupCount) : (numberOf(number) as number);
      if (wanted < 0 || wanted > pattern.groupCount) {
        throw new FunctionFault(
          `The pattern has ${counted(pattern.groupCount, 'group')}, and this asks for number ${wanted}`,
          undefined,
          2,
        );
      }
      const group = pattern.find(text)?.[wanted];
      return group && text.slice(...group);
    },
  },
  {
    name: 'padded',
    parameters: [textValue(), wholeNumber('width'), optional(textValue('sign'))],
    result: 'string',
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
