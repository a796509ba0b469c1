import type * as Picocolors from 'picocolors';

/** The few meanings that colour has in the terminal view; without colours each is the text itself. */
export type Palette = Readonly<{
  good(text: string): string;
  bad(text: string): string;
  warning(text: string): string;
  quiet(text: string): string;
  strong(text: string): string;
  name(text: string): string;
}>;

export function paletteOf(colors: boolean): Palette {
  if (!colors) return { good: plain, bad: plain, warning: plain, quiet: plain, strong: plain, name: plain };
  // Loading it asks for Node's standard output, which takes a while; without colours it is not needed.
  // eslint-disable-next-line @typescript-eslint/no-require-imports -- an import would load it at start
  const { createColors } = require('picocolors') as typeof Picocolors;
  const { green, red, yellow, dim, bold, cyan } = createColors(true);
  return { good: green, bad: red, warning: yellow, quiet: dim, strong: bold, name: cyan };
}

const plain = (text: string): string => text;
