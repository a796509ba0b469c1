import type { Maybe, Value } from '../value/value.ts';

/** A name's value and the address of the step that bound it; `undefined` for an input. */
export type Bound = Readonly<{ value: Maybe; from: string | undefined }>;

/** The names of a chain and what they hold. A name is bound once and never changes. */
export class Scope {
  private readonly names = new Map<string, Bound>();

  bind(name: string, value: Value | undefined, from?: string): void {
    this.names.set(name, { value, from });
  }

  get(name: string): Bound | undefined {
    return this.names.get(name);
  }
}
