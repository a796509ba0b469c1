import { named, value as anyValue, word, type Named } from '../../schema/leaves.ts';
import { duration } from '../../schema/measures.ts';
import { holesOf, textsOf, type ValueTemplate } from '../../template/template.ts';
import type { Source } from '../../diagnostics/source.ts';
import type { Value } from '../../value/value.ts';
import type { HttpRequest } from '../message.ts';
import { attached, attachSchema, attachTexts, type Attach } from './attach.ts';
import type { AuthHost, Authenticator, AuthProblem, AuthScheme, Credential, Signing } from './definition.ts';
import { oneFlight } from './one-flight.ts';
import type { Clock } from '../../ports.ts';

type SignInChain = Readonly<{ main: Source; takes?: Named<ValueTemplate>; attach?: Attach; lasts?: number }>;

/** Any sign-in that a chain can do: it runs once, and what it gives goes into headers or parameters. */
export const chain: AuthScheme<SignInChain> = {
  name: 'chain',
  schema: word('the name of a chain file').describe('A chain that signs in; it runs once, before the first request.'),
  also: {
    takes: named(anyValue()).describe('What the chain takes.'),
    attach: attachSchema.describe(
      'Headers or parameters of the API’s own scheme; their holes read gives.NAME or request.*.',
    ),
    lasts: duration().describe('How long what the chain gives is good; without it until a 401.'),
  },
  texts: ({ takes = [], attach = {} }) => [...takes.flatMap(({ value }) => textsOf(value)), ...attachTexts(attach)],
  secrets: () => [],
  names: ['gives'],
  chain: ({ main, takes = [], attach = {} }) => ({ file: main, takes, reads: attachTexts(attach).flatMap(holesOf) }),
  authenticator: (definition) => new ChainAuthenticator(definition),
};

class ChainAuthenticator implements Authenticator {
  generation = 0;
  private gives: Readonly<Record<string, Value>> | undefined;
  private until = Infinity;
  private readonly flight = oneFlight<AuthProblem | undefined>();

  constructor(private readonly definition: SignInChain) {}

  ready(host: AuthHost): Promise<AuthProblem | undefined> {
    if (!this.isStale(host.clock)) return Promise.resolve(undefined);
    return this.flight(() => this.signIn(host));
  }

  isStale(clock: Clock): boolean {
    return !this.gives || clock.monotonicMs() >= this.until;
  }

  private async signIn(host: AuthHost): Promise<AuthProblem | undefined> {
    const { main, takes = [], lasts = Infinity } = this.definition;
    const started = host.clock.monotonicMs();
    const outcome = await host.runChain(main, Object.fromEntries(takes.map(({ name, value }) => [name, value])));
    if ('problem' in outcome) return outcome.problem;
    const refreshed = this.gives !== undefined;
    this.gives = outcome.gives;
    this.until = started + lasts;
    this.generation++;
    for (const [name, value] of Object.entries(outcome.gives)) host.mark(name, value);
    host.made({ scheme: 'chain', refreshed, ...(lasts === Infinity ? {} : { expires: host.clock.nowMs() + lasts }) });
    return undefined;
  }

  credentials(_request: HttpRequest, { resolver, withNames }: Signing): readonly Credential[] {
    const gives = this.gives ?? {};
    return attached(this.definition.attach ?? {}, resolver.forRecord ? resolver : withNames({ gives }));
  }

  renewed(_response: unknown, generation: number): boolean {
    if (generation === this.generation) this.gives = undefined;
    return true;
  }
}
