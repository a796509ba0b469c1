import type { NameInfo, Names } from './names.ts';
import type { Condition } from './place.ts';

/** One of several ways that a chain may take; one that leads back to its beginning has no end. */
export type Way = Readonly<{
  go(): void;
  /** The conditions of the places on it, where it has more of them. */
  under?: readonly Condition[];
  /** The condition on which it is gone, where its names do not say it already. */
  text: string;
  /** Names may be bound again on it, since what read them is done again. */
  leadsBack?: boolean;
}>;

/** The names behind some ways, of which one is gone: what all of them bind is there, what some bind may be missing. */
export function behindWays(before: Names, ends: readonly Readonly<{ names: Names; text: string }>[]): Names {
  const behind = new Map(before);
  for (const { names, text } of ends) {
    for (const [name, info] of names) {
      if (behind.has(name)) continue;
      const others = ends.map((end) => end.names.get(name));
      behind.set(name, others.includes(undefined) ? ofSome(info, text) : ofAll(info, others));
    }
  }
  return behind;
}

function ofSome(info: NameInfo, text: string): NameInfo {
  return text === '' ? info : { ...info, under: [...info.under, text] };
}

function ofAll(info: NameInfo, others: readonly (NameInfo | undefined)[]): NameInfo {
  const kind = others.every((other) => other?.kind === info.kind) ? info.kind : undefined;
  return { ...info, kind, under: [], at: others.flatMap((other) => other?.at ?? []) };
}
