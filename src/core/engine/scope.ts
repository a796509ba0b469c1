import type { Maybe, Value } from '../value/value.ts';

/** A name's value and the address of the step that bound it; `undefined` for an input. */
export type Bound = Readonly<{ value: Maybe; from: string | undefined }>;

/** The names of a chain, or of one item or round in it, and what they hold. Names of the scope around are seen too. */
export class Scope {
  private readonly names = new Map<string, Bound>();

  constructor(private readonly around?: Scope) {}

  bind(name: string, value: Value | undefined, from?: string): void {
    this.names.set(name, { value, from });
  }

  get(name: string): Bound | undefined {
    return this.names.get(name) ?? this.around?.get(name);
  }

  /** The names that were bound in this very scope. */
  own(): ReadonlyMap<string, Bound> {
    return this.names;
  }
}
