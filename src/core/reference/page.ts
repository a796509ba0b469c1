/** One entry of the reference, in parts, so that the terminal and the documents each show it in their way. */
export type Page = Readonly<{
  /** What it is asked for by: `keep`, `length`, `unknown-name`. */
  name: string;
  kind: 'key' | 'name' | 'function' | 'topic' | 'code';
  /** How it is written, or what it is in a few words. */
  heading: string;
  paragraphs: readonly string[];
  rows: readonly Readonly<{ label: string; text: string }>[];
  /** Something to paste, as it stands. */
  example: string | undefined;
}>;

export type PageGroup = Readonly<{ heading: string; pages: readonly Page[] }>;
