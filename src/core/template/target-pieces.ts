import { formDecoded, percentDecoded } from '../value/percent.ts';
import type { Target } from './request-line.ts';
import type { Placeholder } from './template.ts';

/** Text and placeholders, as they follow each other. */
type Pieces = readonly (string | Placeholder)[];

/** The pieces of each segment of a target's path, text decoded. */
export function pathPieces({ parts }: Target): readonly Pieces[] {
  const segments: (string | Placeholder)[][] = [[]];
  for (const part of parts) {
    if (part.kind === 'literal') {
      const [path = '', rest] = part.text.split(/[?#]/);
      path.split('/').forEach((text, i) => {
        if (i > 0) segments.push([]);
        if (text !== '') segments.at(-1)!.push(percentDecoded(text));
      });
      if (rest !== undefined) break;
      continue;
    }
    if (['?', '&', '#'].includes(part.operator)) break;
    const placeholders =
      part.kind === 'placeholder' ? [part.placeholder] : part.variables.map((each) => each.placeholder);
    if (part.operator === '/') segments.push(...placeholders.map((each) => [each]));
    else segments.at(-1)!.push(...placeholders);
  }
  // What stands before the first slash.
  return segments.slice(1);
}

/** The path of a target in segments; one with a placeholder in it is not known. */
export function pathSegments(target: Target): readonly (string | undefined)[] {
  return pathPieces(target).map(plainPieces);
}

/** What pieces say, where no placeholder is among them. */
export function plainPieces(pieces: Pieces): string | undefined {
  return pieces.every((each) => typeof each === 'string') ? pieces.join('') : undefined;
}

/** Parameters that stand in a target: written out, or by `{?name}`. */
export function queryPieces({ parts }: Target): readonly (readonly [name: string, pieces: Pieces])[] {
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
    else if (rest !== '') pairs.at(-1)![1].push(formDecoded(rest));
    for (const pair of more) {
      const [name = '', value = ''] = pair.split('=');
      pairs.push([formDecoded(name), value === '' ? [] : [formDecoded(value)]]);
    }
  }
  return pairs.filter(([name]) => name !== '');
}
