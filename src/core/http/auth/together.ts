import type { Clock } from '../../ports.ts';
import type { HttpRequest, HttpResponse } from '../message.ts';
import type { Auth, Authenticator, AuthHost, AuthProblem, Credential, Signing } from './definition.ts';

/** Schemes that go together, as one: each adds its credentials to the request, later ones to what earlier ones added. */
export function together(all: readonly Auth[]): Auth {
  return {
    scheme: all.map(({ scheme }) => scheme).join(' and '),
    texts: all.flatMap(({ texts }) => texts),
    secrets: all.flatMap(({ secrets }) => secrets),
    carriers: all.flatMap(({ carriers }) => carriers),
    names: all.flatMap(({ names }) => names),
    urls: all.flatMap(({ urls }) => urls),
    chain: all.find(({ chain }) => chain)?.chain,
    authenticator: () => new Together(all.map((auth) => auth.authenticator())),
  };
}

class Together implements Authenticator {
  /** The generations of the parts behind each generation of the whole. */
  private readonly snapshots: (readonly number[])[] = [];

  constructor(private readonly parts: readonly Authenticator[]) {}

  get generation(): number {
    const now = this.parts.map(({ generation }) => generation);
    const known = this.snapshots.findIndex((each) => each.every((generation, i) => generation === now[i]));
    return known < 0 ? this.snapshots.push(now) - 1 : known;
  }

  async ready(host: AuthHost): Promise<AuthProblem | undefined> {
    for (const part of this.parts) {
      const problem = await part.ready?.(host);
      if (problem) return problem;
    }
    return undefined;
  }

  isStale(clock: Clock): boolean {
    return this.parts.some((part) => part.isStale?.(clock));
  }

  credentials(request: HttpRequest, signing: Signing): readonly Credential[] {
    let complete = request;
    return this.parts.flatMap((part) => {
      const added = part.credentials(complete, signing);
      const headers = added.flatMap(({ place, name, value }) => (place === 'header' ? [[name, value] as const] : []));
      complete = { ...complete, headers: [...complete.headers, ...headers] };
      return added;
    });
  }

  renewed(response: HttpResponse, generation: number): boolean {
    const snapshot = this.snapshots[generation] ?? [];
    // Each that can be renewed is, since nobody knows which of them was refused.
    return this.parts.map((part, i) => part.renewed?.(response, snapshot[i] ?? 0) ?? false).includes(true);
  }
}
