import type { Segment } from '../../contract/find-operation.ts';
import type { Target } from '../../template/request-line.ts';
import type { Placeholder } from '../../template/template.ts';

/** Text and placeholders, as they follow each other. */
type Pieces = readonly (string | Placeholder)[];

/** The pieces of each segment of a path. */
export function textsOfTarget({ parts }: Target): readonly Pieces[] {
  const segments: (string | Placeholder)[][] = [];
  for (const part of parts) {
    if (part.kind === 'literal') {
      const [path = ''] = part.text.split('?');
      path.split('/').forEach((text, i) => {
        if (i > 0 || segments.length === 0) segments.push([]);
        if (text !== '') segments.at(-1)!.push(decodeURIComponent(text));
      });
      if (part.text.includes('?')) break;
    } else if (part.operator === '' || part.operator === '+') {
      segments.at(-1)?.push(part.kind === 'placeholder' ? part.placeholder : part.variables[0]!.placeholder);
    } else break;
  }
  return segments.slice(1);
}

export function segmentsOfTarget(target: Target): readonly Segment[] {
  return textsOfTarget(target).map((pieces) =>
    pieces.every((each) => typeof each === 'string') ? pieces.join('') : undefined,
  );
}

/** A path template of a target: placeholders by their number, where their names are not plain. */
export function templateOf(target: Target): string {
  const segments = textsOfTarget(target).map((pieces, i) =>
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

/** Parameters that stand in a target: written out, or by `{?name}`. */
export function queryOfTarget({ parts }: Target): readonly (readonly [name: string, pieces: Pieces])[] {
  const byName = parts.flatMap((part) =>
    part.kind === 'variables' && (part.operator === '?' || part.operator === '&')
      ? part.variables.map(({ name, placeholder }) => [name, [placeholder]] as const)
      : [],
  );
  return [...pairsOf(writtenQuery(parts)), ...byName];
}

/** What stands behind the question mark of a target, in pieces. */
function writtenQuery(parts: Target['parts']): Pieces {
  const at = parts.findIndex((part) => part.kind === 'literal' && part.text.includes('?'));
  if (at < 0) return [];
  return parts.slice(at).flatMap((part, i): Pieces => {
    if (part.kind === 'literal') return [i === 0 ? part.text.slice(part.text.indexOf('?') + 1) : part.text];
    if (part.kind === 'placeholder') return [part.placeholder];
    return part.operator === '?' || part.operator === '&' ? [] : [part.variables[0]!.placeholder];
  });
}

/** `a=1&b=` and a placeholder: the pieces of each value by its name. */
function pairsOf(pieces: Pieces): readonly (readonly [name: string, pieces: Pieces])[] {
  const pairs: [string, (string | Placeholder)[]][] = [];
  for (const piece of pieces) {
    if (typeof piece !== 'string') {
      pairs.at(-1)?.[1].push(piece);
      continue;
    }
    const [rest = '', ...more] = piece.split('&');
    if (pairs.length === 0) more.unshift(rest);
    else if (rest !== '') pairs.at(-1)![1].push(decodeURIComponent(rest));
    for (const pair of more) {
      const [name = '', value = ''] = pair.split('=');
      pairs.push([decodeURIComponent(name), value === '' ? [] : [decodeURIComponent(value)]]);
    }
  }
  return pairs.filter(([name]) => name !== '');
}
