/** Letters of a word that stands in ordinary text. */
const MAX_WORD = 12;
const WORD = new RegExp(`^(?:[A-Z]?[a-z]{1,${MAX_WORD}}|[A-Z]{1,${MAX_WORD}})$`);
/** What may stand in a file by accident: words and numbers, and not many of them. A key that was pasted there does not. */
const PLAIN = /^(?=.{1,24}$)[a-z0-9]{1,12}(?:[-_. ][a-z0-9]{1,12})*$/i;

/**
 * Whether a secret would be found where it is not meant: it is an ordinary word, or a plain text that the project's own
 * files hold. Masking it wherever it stands would make records unreadable. `texts` are those files, read only when needed.
 */
export function isCommon(secret: string, texts: () => Iterable<string>): boolean {
  if (WORD.test(secret)) return true;
  if (!PLAIN.test(secret)) return false;
  for (const text of texts()) if (text.includes(secret)) return true;
  return false;
}
