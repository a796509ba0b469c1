import type { VNode } from 'preact';

/** Failures and notes that a page shows; of more it says how many. */
export const MAX_FAILURES = 100;

/** Names and what they are, in two columns; nothing where there are none. */
export function Rows({ of }: Readonly<{ of: readonly Readonly<{ label: string; text: string }>[] }>): VNode | null {
  if (of.length === 0) return null;
  return (
    <dl class="rows">
      {of.map(({ label, text }) => (
        <>
          <dt>{label}</dt>
          <dd>{text}</dd>
        </>
      ))}
    </dl>
  );
}

export function shortened(text: string, most: number): string {
  return text.length > most ? `${text.slice(0, most - 1)}\u2026` : text;
}

/** The first of what can be gone over, which may be a million. */
export function firstOf<T>(all: Iterable<T>, most: number): readonly T[] {
  const first: T[] = [];
  for (const each of all) {
    if (first.length === most) break;
    first.push(each);
  }
  return first;
}
