import { named, value as anyValue, chainFileName, type Named } from '../../schema/leaves.ts';
import { duration } from '../../schema/measures.ts';
import { placeholdersOf, textsOf, type ValueTemplate } from '../../template/template.ts';
import type { Source } from '../../diagnostics/source.ts';
import type { Value } from '../../value/value.ts';
import type { HttpRequest } from '../message.ts';
import { attached, attachSchema, attachTexts, namesOf, type Attach } from './attach.ts';
import type { AuthHost, Authenticator, AuthProblem, AuthScheme, Credential, Signing } from './definition.ts';
import { oneFlight } from './one-flight.ts';
import type { Clock } from '../../ports.ts';

type SignInChain = Readonly<{ main: Source; inputs?: Named<ValueTemplate>; attach?: Attach; 'valid-for'?: number }>;

/** Any sign-in that a chain can do: it runs once, and what it gives goes into headers or parameters. */
export const chain: AuthScheme<SignInChain> = {
  name: 'chain',
  schema: chainFileName().describe('A chain that signs in; it runs once, before the first request.'),
  also: {
    inputs: named(anyValue()).describe('Values for the inputs of the chain, by name.'),
    attach: attachSchema.describe(
      "Headers or parameters of the API's own scheme; their placeholders read outputs.NAME and request.*.",
    ),
    'valid-for': duration().describe('How long the outputs of the chain are valid. Default: until a 401.'),
  },
  texts: ({ inputs = [], attach = {} }) => [...inputs.flatMap(({ value }) => textsOf(value)), ...attachTexts(attach)],
  secrets: () => [],
  names: ({ attach = {} }) => ['outputs', 'request', ...namesOf(attach)],
  chain: ({ main, inputs = [], attach = {} }) => ({
    file: main,
    inputs,
    reads: attachTexts(attach).flatMap(placeholdersOf),
  }),
  authenticator: (definition) => new ChainAuthenticator(definition),
};

class ChainAuthenticator implements Authenticator {
  generation = 0;
  private outputs: Readonly<Record<string, Value>> | undefined;
  private until = Infinity;
  private readonly flight = oneFlight<AuthProblem | undefined>();

  constructor(private readonly definition: SignInChain) {}

  ready(host: AuthHost): Promise<AuthProblem | undefined> {
    if (!this.isStale(host.clock)) return Promise.resolve(undefined);
    return this.flight(() => this.signIn(host));
  }

  isStale(clock: Clock): boolean {
    return !this.outputs || clock.monotonicMs() >= this.until;
  }

  private async signIn(host: AuthHost): Promise<AuthProblem | undefined> {
    const { main, inputs = [], 'valid-for': validFor = Infinity } = this.definition;
    const started = host.clock.monotonicMs();
    const outcome = await host.runChain(main, Object.fromEntries(inputs.map(({ name, value }) => [name, value])));
    if ('problem' in outcome) return outcome.problem;
    const refreshed = this.outputs !== undefined;
    this.outputs = outcome.outputs;
    this.until = started + validFor;
    this.generation++;
    for (const [name, value] of Object.entries(outcome.outputs)) host.mark(name, value);
    host.made({
      scheme: 'chain',
      refreshed,
      ...(validFor === Infinity ? {} : { expires: host.clock.nowMs() + validFor }),
    });
    return undefined;
  }

  credentials(request: HttpRequest, signing: Signing): readonly Credential[] {
    return attached(this.definition.attach ?? {}, request, signing, { outputs: this.outputs ?? {} });
  }

  renewed(_response: unknown, generation: number): boolean {
    if (generation === this.generation) this.outputs = undefined;
    return true;
  }
}
