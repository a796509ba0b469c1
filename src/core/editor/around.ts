/** A member of a mapping by its key, an item of a list by its number from 0. */
export type PathKey = string | number;

/** A mapping or a list around the cursor: the keys that are written in it, with their plain values, and the way to it. */
export type Around = Readonly<{
  path: readonly PathKey[];
  keys: ReadonlyMap<string, string>;
  /** The column of its keys; none in braces and brackets, nor of a list. */
  column?: number | undefined;
}>;
