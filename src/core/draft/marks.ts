/** Signs around an expression in a text of a sample; samples that hold them are refused. */
const BEGIN = '\ue000';
const END = '\ue001';

export const holdsMarks = (text: string): boolean => text.includes(BEGIN) || text.includes(END);

/** Stands for a placeholder in a text of a sample: `{day}`, `{secret.HARBOUR_TOKEN}`. */
export function mark(expression: string): string {
  return BEGIN + expression + END;
}

/** The expression of a text that is one placeholder and nothing else. */
export function soleMark(text: string): string | undefined {
  return /^\ue000([^\ue001]*)\ue001$/.exec(text)?.[1];
}

/** A text with its marks as placeholders, and what stands between them as `literal` writes it. */
export function withPlaceholders(text: string, literal: (text: string) => string): string {
  return text
    .split(/(\ue000[^\ue001]*\ue001)/)
    .map((part) => (part.startsWith(BEGIN) ? `{${part.slice(1, -1)}}` : literal(part)))
    .join('');
}
