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
    about: 'The string in lower case, independent of the language.',
    alias: ['lowercase', 'to_lower', 'tolower', 'downcase'],
    example: ['lower($.port)', "'kvitnes'"],
    evaluate: (text: string) => text.toLowerCase(),
  },
  {
    name: 'upper',
    parameters: [textValue()],
    result: 'string',
    about: 'The string in upper case, independent of the language.',
    alias: ['uppercase', 'to_upper', 'toupper', 'upcase'],
    example: ['upper($.port)', "'KVITNES'"],
    evaluate: (text: string) => text.toUpperCase(),
  },
  {
    name: 'trimmed',
    parameters: [textValue()],
    result: 'string',
    about: 'The string without spaces and line breaks at its ends.',
    alias: ['trim', 'strip'],
    example: ["trimmed('  N1 ')", "'N1'"],
    evaluate: (text: string) => text.trim(),
  },
  {
    name: 'replaced',
    parameters: [textValue(), textValue('old'), textValue('new')],
    result: 'string',
    about: 'The string with every occurrence of one string replaced by another.',
    alias: ['replace', 'replace_all', 'sub', 'gsub'],
    example: ["replaced($.arrivals[0].vessel, '/', '-')", "'KM 204-5'"],
    evaluate: (text: string, old: string, put: string) => {
      if (old === '') throw new FunctionFault('replaced() cannot search for an empty string', undefined, 1);
      return text.replaceAll(old, () => put);
    },
  },
  {
    name: 'split',
    parameters: [textValue(), textValue('separator')],
    result: 'array',
    about: 'The parts of a string between separators.',
    alias: ['explode', 'tokenize'],
    example: ["split($.arrivals[0].vessel, ' ')", "['KM', '204/5']"],
    evaluate: (text: string, separator: string) => (separator === '' ? [...text] : text.split(separator)),
  },
  {
    name: 'joined',
    parameters: [listValue(), textValue('separator')],
    result: 'string',
    about: 'The items of an array as one string, with a separator between them.',
    alias: ['join', 'implode'],
    example: ["joined($.arrivals[*].state, ', ')", "'expected, moored'"],
    evaluate: (list: readonly Value[], separator: string) =>
      list
        .map((item, i) => {
          const text = textOf(item);
          if (typeof text === 'string') return text;
          throw new FunctionFault(`joined() cannot represent item ${i + 1}, which is ${text.what}`, text.advice);
        })
        .join(separator),
  },
  {
    name: 'starts_with',
    parameters: [textValue(), textValue('start')],
    result: 'condition',
    about: 'Whether a string begins with another.',
    alias: ['startswith', 'has_prefix', 'begins_with'],
    example: ["starts_with($.port, 'Kv')", 'true'],
    evaluate: (text: string, start: string) => text.startsWith(start),
  },
  {
    name: 'ends_with',
    parameters: [textValue(), textValue('end')],
    result: 'condition',
    about: 'Whether a string ends with another.',
    alias: ['endswith', 'has_suffix'],
    example: ["ends_with($.port, 'nes')", 'true'],
    evaluate: (text: string, end: string) => text.endsWith(end),
  },
  {
    name: 'contains',
    parameters: [textValue(), textValue('part')],
    result: 'condition',
    about: 'Whether a string contains another. For an item of an array write x in array.',
    alias: ['includes', 'has_text', 'substring_of'],
    example: ["contains($.port, 'vit')", 'true'],
    evaluate: (text: string, part: string) => text.includes(part),
  },
  {
    name: 'captured',
    parameters: [textValue(), patternText(), optional(wholeNumber())],
    result: 'string',
    errors: 'The pattern is not an I-Regexp, has no such group, or the string exceeds 1 MiB.',
    about:
      'The part of a string that a group of a pattern (RFC 9485) captures at the first match: by default the first group, or the whole match if there is none; nothing without a match.',
    alias: ['capture', 'extract', 'match_group', 'submatch'],
    example: ["captured($.arrivals[0].vessel, '([A-Z]+) ([0-9]+)', 2)", "'204'"],
    evaluate: (text: string, source: string, number?: Value) => {
      const { pattern, problem } = compilePattern(source);
      if (!pattern) throw new FunctionFault(problem.message, problem.advice, 1);
      if (text.length > MAX_SEARCHED) throw new FunctionFault('A string to search can have at most 1 MiB');
      const wanted = number === undefined ? Math.min(1, pattern.groupCount) : (numberOf(number) as number);
      if (wanted < 0 || wanted > pattern.groupCount) {
        throw new FunctionFault(
          `The pattern has ${counted(pattern.groupCount, 'group')}, and no group ${wanted}`,
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
    about:
      'The string padded at its start to a width, with spaces or another character; with a negative width, at its end.',
    alias: ['pad', 'lpad', 'zfill', 'pad_start'],
    example: ["padded('7', 3, '0')", "'007'"],
    evaluate: (text: string, width: Value, sign = ' ') => {
      const columns = Number(numberOf(width));
      const fill = sign.repeat(Math.max(0, Math.abs(columns) - [...text].length)).slice(0, 1_000_000);
      return columns < 0 ? text + fill : fill + text;
    },
  },
];
