import type { CallbackServer } from '../ports.ts';

/** Addresses that are listened at, by name: those of one item, chain or run, and those around it. */
export class Callbacks {
  private readonly servers = new Map<string, CallbackServer>();

  constructor(private readonly outer?: Callbacks) {}

  get(name: string): CallbackServer | undefined {
    return this.servers.get(name) ?? this.outer?.get(name);
  }

  /** A further round that listens under the same name no longer does so at the address of the one before. */
  set(name: string, server: CallbackServer): void {
    this.servers.get(name)?.close();
    this.servers.set(name, server);
  }

  /** Listens no longer at its own addresses. */
  close(): void {
    for (const server of this.servers.values()) server.close();
  }
}
