import { writeJson } from '../../core/value/json-write.ts';
import type { Value } from '../../core/value/value.ts';
import type { Palette } from './palette.ts';
import { visible } from '../../core/value/visible.ts';

/** A value as JSON over several lines, the names of members in bold. */
export function prettyJson(value: Value, palette: Palette): string {
  return visible(writeJson(value, 2)).replace(/("(?:[^"\\]|\\.)*")(: )?/g, (text, string: string, colon?: string) =>
    colon === undefined ? text : palette.strong(string) + colon,
  );
}
