import { boundTo, type Secrecy, type SecretLookup } from '../expression/secrecy.ts';

/** Names whose values are secret, and why: those of one scope, and those of the scopes around it. */
export class SecretNames {
  // Most scopes have none.
  private own: Map<string, Secrecy> | undefined;

  constructor(private readonly around?: SecretLookup) {}

  get(name: string): Secrecy | undefined {
    return this.own?.get(name) ?? this.around?.get(name);
  }

  /** What was bound to a name is secret; nothing for a value that is not. */
  set(name: string, secrecy: Secrecy | undefined): void {
    if (secrecy) (this.own ??= new Map<string, Secrecy>()).set(name, boundTo(name, secrecy));
  }

  /** Those of this very scope. */
  entries(): Iterable<[name: string, secrecy: Secrecy]> {
    return this.own ?? [];
  }
}
