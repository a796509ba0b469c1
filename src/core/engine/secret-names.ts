/** Names whose values are secret, and under which name each is masked: those of one scope, and those of the scopes around it. */
export class SecretNames {
  // Most scopes have none.
  private own: Map<string, string> | undefined;

  constructor(private readonly around?: Pick<SecretNames, 'get'>) {}

  get(name: string): string | undefined {
    return this.own?.get(name) ?? this.around?.get(name);
  }

  set(name: string, secret: string): void {
    (this.own ??= new Map<string, string>()).set(name, secret);
  }

  /** Those of this very scope. */
  entries(): Iterable<[name: string, secret: string]> {
    return this.own ?? [];
  }
}
