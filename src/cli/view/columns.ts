import type * as StringWidth from 'string-width';

/** Columns that a text takes in a terminal; wide and combining characters count as terminals show them. */
export function columnsOf(text: string): number {
  if (/^[\u0000-\u00ff\u2039\u203a\u2026]*$/.test(text)) return text.length;
  // Loaded at the first other text: making its segmenter takes half as long as starting Node.
  // eslint-disable-next-line @typescript-eslint/no-require-imports -- an import would be asynchronous, or at start
  stringWidth ??= (require('string-width') as typeof StringWidth).default;
  return stringWidth(text);
}

let stringWidth: ((text: string) => number) | undefined;
