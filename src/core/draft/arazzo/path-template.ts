import type { Target } from '../../template/request-line.ts';
import { pathPieces } from '../../template/target-pieces.ts';

/** A path template of a target: placeholders by their number, where their names are not plain. */
export function templateOf(target: Target): string {
  const segments = pathPieces(target).map((pieces, i) =>
    pieces
      .map((piece) => {
        if (typeof piece === 'string') return piece;
        const { node } = piece;
        const name =
          node.kind === 'path' && node.start.kind === 'name' && node.segments.length === 0
            ? node.start.name
            : `p${i + 1}`;
        return `{${name}}`;
      })
      .join(''),
  );
  return `/${segments.join('/')}`;
}
