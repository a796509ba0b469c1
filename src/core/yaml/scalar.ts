import { parseNumber } from '../value/numbers.ts';
import type { Value } from '../value/value.ts';
import type { Range } from '../diagnostics/problem.ts';
import type { Edit } from '../diagnostics/problem.ts';
import { insideQuotes, yamlScalar } from './quoting.ts';
import type { Source, SourceFile } from '../diagnostics/source.ts';
import { offsetsOf } from './offsets.ts';
import type { YamlScalar } from './tree.ts';

const REWRITTEN =
  /^[-+]?(?:0\d[\d.]*|\.\d+|\d+\.|\.inf|\.Inf|\.INF)$|^\+\d[\d.]*$|^0x[0-9a-fA-F]+$|^0o[0-7]+$|^\.(?:nan|NaN|NAN)$/;

/** A number that YAML reads as another one than the digits say, or that JSON cannot hold: `01234`, `0x1F`, `+5`. */
export function isRewrittenNumber({ plain, source }: YamlScalar): boolean {
  return plain && REWRITTEN.test(source.text);
}

/** The value of a scalar by YAML 1.2's core schema; numbers keep their source text. */
export function scalarValue({ plain, source }: YamlScalar): Value {
  const { text } = source;
  if (!plain) return text;
  if (/^(?:null|Null|NULL|~|)$/.test(text)) return null;
  if (/^(?:true|True|TRUE)$/.test(text)) return true;
  if (/^(?:false|False|FALSE)$/.test(text)) return false;
  return parseNumber(text) ?? text;
}

/**
 * A scalar of a file: where it stands with its quotes, and its text without them. Places inside the text are worked
 * out when a message first asks for one; where they cannot be, the first line of the scalar stands for them.
 */
export function scalarNode(file: SourceFile, range: Range, text: string, plain: boolean): YamlScalar {
  let locate: ((inner: Range) => Range) | undefined;
  const source: Source = {
    file,
    text,
    locate: (inner: Range): Range => {
      locate ??= offsetsOf(file.text.slice(...range), range[0], text) ?? (() => firstLine(file, range));
      return locate(inner);
    },
    replace: ([from, to]: Range, by: string): Edit => {
      const raw = file.text[range[0]];
      const isQuoted = !plain && (raw === '"' || raw === "'");
      if (isQuoted) return { range: source.locate([from, to]), text: insideQuotes(by, raw) };
      if (!plain) return { range: source.locate([from, to]), text: by };
      const whole = text.slice(0, from) + by + text.slice(to);
      return { range, text: yamlScalar(whole, /[,[\]{}]/.test(by)) };
    },
  };
  return { kind: 'scalar', range, plain, source };
}

function firstLine({ text }: SourceFile, [start, end]: Range): Range {
  const lineEnd = text.indexOf('\n', start);
  return [start, lineEnd < 0 ? end : Math.min(end, lineEnd)];
}
