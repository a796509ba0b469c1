import type { Range } from '../diagnostics/problem.ts';

/** One step of a path (RFC 9535 section 1.3). `F` is what stands in a filter: an expression of the grammar around. */
export type Segment<F> = Readonly<{
  range: Range;
  /** Whether the segment is a descendant segment (`..`). */
  descends: boolean;
  selectors: readonly Selector<F>[];
}>;

export type Selector<F> =
  | Readonly<{ kind: 'name'; range: Range; name: string }>
  | Readonly<{ kind: 'index'; range: Range; index: number }>
  | Readonly<{ kind: 'slice'; range: Range; start?: number; end?: number; step: number }>
  | Readonly<{ kind: 'wildcard'; range: Range }>
  | Readonly<{ kind: 'filter'; range: Range; condition: F }>;

/** Whether the segments can find at most one node: decided by their shape alone, never by the data. */
export function isSingular<F>(segments: readonly Segment<F>[]): boolean {
  return segments.every(
    ({ descends, selectors }) =>
      !descends && selectors.length === 1 && (selectors[0]!.kind === 'name' || selectors[0]!.kind === 'index'),
  );
}
