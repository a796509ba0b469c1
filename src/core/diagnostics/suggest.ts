import { distance } from 'fastest-levenshtein';

/** The candidate closest in spelling, when it is close enough to be meant: a third of its length may differ. */
export function nearest(word: string, candidates: Iterable<string>): string | undefined {
  let best: string | undefined;
  let bestDistance = Infinity;
  const lower = word.toLowerCase();
  for (const candidate of candidates) {
    const other = candidate.toLowerCase();
    const apart = other === lower ? 0.5 : letters(other) === letters(lower) ? 1 : distance(lower, other);
    if (apart < bestDistance && apart <= Math.max(1, Math.max(word.length, candidate.length) / 3)) {
      best = candidate;
      bestDistance = apart;
    }
  }
  return best;
}

/** The letters of a word in order: the same for `name` and `nmae`, the commonest slip of all. */
function letters(word: string): string {
  return [...word].sort().join('');
}

/** `Did you mean "x"?`, or nothing to say. */
export function didYouMean(word: string, candidates: Iterable<string>): string | undefined {
  const best = nearest(word, candidates);
  return best === undefined ? undefined : `Did you mean "${best}"?`;
}

/** Spreads to `{advice}` when there is one: an absent advice is no key at all. */
export function adviceOf(advice: string | undefined): { advice?: string } {
  return advice === undefined ? {} : { advice };
}
