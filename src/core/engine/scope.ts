import type { Maybe, Value } from '../value/value.ts';

/** A name's value and the address of the step that bound it; `undefined` for an input. */
export type Bound = Readonly<{ value: Maybe; from: string | undefined }>;

const NONE: ReadonlySet<string> = new Set();

/** The names of a chain, or of one item or round in it, and what they hold. Names of the scope around are seen too. */
export class Scope {
  private readonly names = new Map<string, Bound>();
  /** Why names have no value that would have one, or an empty array. */
  private lacking: Map<string, string> | undefined;

  constructor(private readonly around?: Scope) {}

  bind(name: string, value: Value | undefined, from?: string): void {
    this.names.set(name, { value, from });
    this.lacking?.delete(name);
  }

  get(name: string): Bound | undefined {
    return this.names.get(name) ?? this.around?.get(name);
  }

  /** Says why a name has no value, or nothing in it. */
  lack(name: string, why: string): void {
    (this.lacking ??= new Map<string, string>()).set(name, why);
  }

  whyLacking(name: string): string | undefined {
    return this.lacking?.get(name) ?? (this.names.has(name) ? undefined : this.around?.whyLacking(name));
  }

  /** Gives what this very scope holds to the one around, but for some names. */
  handOn(around: Scope, except: ReadonlySet<string> = NONE): void {
    for (const [name, { value, from }] of this.names) if (!except.has(name)) around.bind(name, value, from);
    for (const [name, why] of this.lacking ?? []) around.lack(name, why);
  }
}
