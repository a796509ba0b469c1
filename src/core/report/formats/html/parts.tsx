import type { VNode } from 'preact';

/** Notes that a page shows. */
export const MAX_NOTES = 100;

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
