import { parsePattern, type PatternNode } from './parse.ts';

/** Characters that are tried in a set, those that read well first. */
const TRIED = [...'1aA0bcdefghijklmnopqrstuvwxyzBCDEFGHIJKLMNOPQRSTUVWXYZ23456789-_ .,:;/@#'].map((each) =>
  each.codePointAt(0)!,
);

/** A short text that a pattern of ECMA-262 matches as a whole; nothing where it has none of common characters. */
export function textMatching(source: string): string | undefined {
  try {
    return textOf(parsePattern(source, 'ecma'));
  } catch {
    return undefined;
  }
}

function textOf(node: PatternNode): string | undefined {
  switch (node.kind) {
    case 'set': {
      const point = TRIED.find(node.matches) ?? range(33, 0x2ff).find(node.matches);
      return point === undefined ? undefined : String.fromCodePoint(point);
    }
    case 'anchor':
      return '';
    case 'sequence': {
      const parts = node.parts.map(textOf);
      return parts.includes(undefined) ? undefined : parts.join('');
    }
    case 'choice':
      return node.branches.map(textOf).find((each) => each !== undefined);
    case 'group':
      return textOf(node.inner);
    case 'repeat':
      return node.min === 0 ? '' : textOf(node.inner)?.repeat(node.min);
  }
}

function range(from: number, to: number): readonly number[] {
  return Array.from({ length: to - from }, (_, i) => from + i);
}
