/** Columns that a text takes in a terminal; wide and combining characters count as terminals show them. */
export function columnsOf(text: string): number {
  // eslint-disable-next-line no-control-regex -- ASCII is a range that begins with control characters
  if (/^[\u0000-\u00ff‹›…]*$/.test(text)) return text.length;
  // Loaded at the first other text: making its segmenter takes half as long as starting Node.
  // eslint-disable-next-line @typescript-eslint/no-require-imports -- an import would be asynchronous, or at start
  stringWidth ??= (require('string-width') as typeof import('string-width')).default;
  return stringWidth(text);
}

let stringWidth: ((text: string) => number) | undefined;
