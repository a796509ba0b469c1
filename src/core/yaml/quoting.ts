/** What YAML would read otherwise than as plain text: signs at the start, and `: ` or ` #` inside. */
const UNSAFE = /^[\s!&*%@`|>'"{}[\],#?:-]|: |:$| #|\n|^$|\s$/;
const UNSAFE_IN_FLOW = /[,[\]{}]/;

/** A text as a YAML scalar: as it is when it can stand plain, else in the quotes that need fewer escapes. */
export function yamlScalar(text: string, inFlow = false): string {
  const isNegative = /^-[\w$@('"]/.test(text);
  const unsafe = isNegative ? UNSAFE.test(text.slice(1)) : UNSAFE.test(text);
  return unsafe || (inFlow && UNSAFE_IN_FLOW.test(text)) ? yamlQuoted(text) : text;
}

/** A text in double quotes, or in single ones when it holds double quotes or backslashes. */
export function yamlQuoted(text: string): string {
  if (!/["\\\u0000-\u001f]/.test(text)) return `"${text}"`;
  return /[\u0000-\u001f]/.test(text) ? JSON.stringify(text) : `'${text.replaceAll("'", "''")}'`;
}

/** A text as it stands between quotes of one sort that are there already. */
export function insideQuotes(text: string, quote: '"' | "'"): string {
  return quote === "'" ? text.replaceAll("'", "''") : JSON.stringify(text).slice(1, -1);
}
