import picocolors from 'picocolors';

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
  const { green, red, yellow, dim, bold, cyan } = picocolors.createColors(colors);
  return { good: green, bad: red, warning: yellow, quiet: dim, strong: bold, name: cyan };
}
