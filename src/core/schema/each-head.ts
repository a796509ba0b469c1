import { inFile, type Source } from '../diagnostics/source.ts';
import { readExpression, type Expression } from './leaves.ts';
import { holding } from './input.ts';
import { leaf, reportAt } from './leaf.ts';

/** `vessel in due`: the name of an item, and the list. */
type EachHead = Readonly<{ name: Source; list: Expression; head: Source }>;

export const eachHead = () =>
  leaf(
    'NAME in ARRAY, such as vessel in due',
    (scalar, reading): EachHead | undefined => {
      const { source } = scalar;
      const found = /^(\s*)(\S+)(\s+in\s+)(?=\S)/.exec(source.text);
      if (!found) {
        const advice = 'Example: each: vessel in due';
        reportAt(reading, scalar, 'does-not-parse', `"${source.text}" is not of the form NAME in ARRAY`, advice);
        return undefined;
      }
      const [whole, blank = '', name = ''] = found;
      const rest = slicedSource(source, whole.length, source.text.length);
      const { tree, problems } = readExpression(rest.text);
      for (const problem of problems) reading.report(inFile(rest, problem));
      return {
        name: slicedSource(source, blank.length, blank.length + name.length),
        list: { kind: 'expression', source: rest, tree },
        head: source,
      };
    },
    holding('each-head', { type: 'string', pattern: '\\sin\\s' }),
  );

/** A part of a text, which knows its place as the whole does. */
function slicedSource({ file, text: whole, locate }: Source, from: number, to: number): Source {
  return { file, text: whole.slice(from, to), locate: ([start, end]) => locate([start + from, end + from]) };
}
