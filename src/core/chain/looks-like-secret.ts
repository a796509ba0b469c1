import { isSecretName, type NamePlace } from './secret-words.ts';

/** Forms that credentials have: tokens with a known shape, and long texts of mixed characters without blanks. */
const SHAPES: readonly RegExp[] = [
  /\beyJ[A-Za-z0-9_-]{8,}\.[A-Za-z0-9_-]+/,
  /-----BEGIN [A-Z ]*PRIVATE KEY-----/,
  /^(?:Bearer|Basic|Token)\s+\S{8,}$/i,
  /:\/\/[^/\s:@]+:[^/\s@]+@/,
];

/** Whether a literal looks like a credential: by its form, or by the name under which it stands. */
export function looksLikeSecret(text: string, name = '', place: NamePlace = 'member'): boolean {
  return hasSecretShape(text) || isSecretName(name, text, place);
}

/** The same by its form alone. */
export function hasSecretShape(text: string): boolean {
  return SHAPES.some((shape) => shape.test(text)) || (/^[A-Za-z0-9+/_=-]{32,}$/.test(text) && entropy(text) > 4);
}

/** Bits of information a character, by how often each one stands in the text (Shannon). */
function entropy(text: string): number {
  const counts = new Map<string, number>();
  for (const character of text) counts.set(character, (counts.get(character) ?? 0) + 1);
  return [...counts.values()].reduce((sum, count) => sum - (count / text.length) * Math.log2(count / text.length), 0);
}
