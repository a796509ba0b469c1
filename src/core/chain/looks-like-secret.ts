/** Forms that credentials have: tokens with a known shape, and long texts of mixed characters without blanks. */
const SHAPES: readonly RegExp[] = [
  /\beyJ[A-Za-z0-9_-]{8,}\.[A-Za-z0-9_-]+/,
  /-----BEGIN [A-Z ]*PRIVATE KEY-----/,
  /^(?:Bearer|Basic|Token)\s+\S{8,}$/i,
  /:\/\/[^/\s:@]+:[^/\s@]+@/,
];

/** Names of headers, parameters and settings whose values are credentials as a rule. */
const NAMES = /(?:^|[-_.])(?:authorization|api[-_]?key|token|secret|password|passwd|pwd|credential|signature)s?$/i;

/** Whether a literal looks like a credential: by its form, or by the name under which it stands. */
export function looksLikeSecret(text: string, name = ''): boolean {
  if (SHAPES.some((shape) => shape.test(text))) return true;
  if (NAMES.test(name) && /^\S{6,}$/.test(text)) return true;
  return /^[A-Za-z0-9+/_=-]{32,}$/.test(text) && entropy(text) > 4;
}

/** Bits of information a character, by how often each one stands in the text (Shannon). */
function entropy(text: string): number {
  const counts = new Map<string, number>();
  for (const character of text) counts.set(character, (counts.get(character) ?? 0) + 1);
  return [...counts.values()].reduce((sum, count) => sum - (count / text.length) * Math.log2(count / text.length), 0);
}
