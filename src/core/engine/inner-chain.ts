import { resolveInputs, type Given } from '../chain/inputs.ts';
import type { Chain } from '../chain/model.ts';
import type { Diagnostic } from '../diagnostics/source.ts';
import type { Secrecy } from '../expression/secrecy.ts';
import type { EndpointOf } from '../chain/endpoints.ts';
import type { Value } from '../value/value.ts';
import { withoutAuth } from '../http/endpoint.ts';
import type { Address } from '../journal/address.ts';
import { Callbacks } from './callbacks.ts';
import { chainFrame } from './frames.ts';
import type { FailedStep, StepFrame } from './frame.ts';
import { evaluateOutputs } from './chain-outputs.ts';
import { inputHost } from './host.ts';
import { runToEnd } from './chain-end.ts';
import type { StepsOutcome } from './outcome.ts';

/** A used chain remembers nothing of its own. */
const NO_MEMORY = (): StepFrame['memory'] => ({ before: {}, later: new Map() });

/** What a used chain is given: its inputs, and which of them are secret. */
export type InnerInputs = Readonly<{
  given: ReadonlyMap<string, Given>;
  secretNames: ReadonlyMap<string, Secrecy>;
}>;

type InnerOutcome =
  | (StepsOutcome &
      Readonly<{
        outputs: ReadonlyMap<string, Value>;
        secretNames: ReadonlyMap<string, Secrecy>;
        /** The steps of it that failed. */
        failed: readonly FailedStep[];
      }>)
  | Readonly<{ diagnostics: readonly Diagnostic[] }>;

/**
 * Runs a chain inside another, in a scope of its own: it sees nothing of what is around it but what it takes. `inside`
 * begins the addresses of its steps, `keyPrefix` their keys.
 */
export async function runInner(
  chain: Chain,
  { given, secretNames }: InnerInputs,
  { inside, keyPrefix }: Readonly<{ inside: Address; keyPrefix: string }>,
  outer: StepFrame,
): Promise<InnerOutcome> {
  const runHost = outer.runHost.beside(chain.file);
  const { inputs, diagnostics } = await resolveInputs(
    chain,
    given,
    outer.run.secrets,
    inputHost(runHost, `${inside}takes`),
  );
  if (diagnostics.length > 0) return { diagnostics };
  const endpointOf: EndpointOf = (of, call) => {
    const endpoint = outer.endpointOf(of, call);
    // A chain that signs in carries none of the credentials that it makes.
    const signsIn = endpoint?.auth?.chain && outer.run.chainAt(endpoint.auth.chain.file) === chain;
    return endpoint && signsIn ? withoutAuth(endpoint) : endpoint;
  };
  const context = chainFrame(
    {
      ...outer,
      chain,
      runHost,
      endpointOf,
      memory: NO_MEMORY(),
      keyPrefix,
      callbacks: new Callbacks(),
    },
    inputs,
    secretNames,
  );
  const outcome = await runToEnd(context, inside).finally(() => context.callbacks.close());
  const { real, secrets } = evaluateOutputs(context, outcome.exit === 0 ? 'passed' : 'failed');
  return { ...outcome, outputs: real, secretNames: secrets, failed: context.failed };
}
