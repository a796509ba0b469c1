import type { Given } from '../../chain/inputs.ts';
import type { Source } from '../../diagnostics/source.ts';
import type { Secrecy } from '../../expression/secrecy.ts';
import type { EndpointOf } from '../../chain/endpoints.ts';
import { withoutAuth, type Endpoint } from '../../http/endpoint.ts';
import type { ChainGiven } from '../../http/auth/definition.ts';
import { fillValue } from '../../template/fill.ts';
import type { ValueTemplate } from '../../template/template.ts';
import type { StepFrame } from '../frame.ts';
import { secretInTemplate } from '../../template/secrecy.ts';
import { resolversFor } from '../resolvers.ts';
import { runInner } from '../inner-chain.ts';

/** Runs a chain that signs in; its own calls to the api carry no credentials, which are only being made. */
export async function runSignInChain(
  file: Source,
  inputs: Readonly<Record<string, ValueTemplate>>,
  context: StepFrame,
  endpoint: Endpoint | undefined,
): Promise<ChainGiven> {
  const chain = context.run.chainAt(file);
  if (!chain) return { problem: { code: 'file-not-found', message: `The chain ${file.text} cannot be read` } };
  const { real } = resolversFor(context, endpoint);
  const given = new Map<string, Given>();
  const secretNames = new Map<string, Secrecy>();
  for (const [name, template] of Object.entries(inputs)) {
    const filled = fillValue(template, real);
    if (filled !== 'left-out') given.set(name, { value: filled.value, source: file });
    const secret = secretInTemplate(template, context.secretNames);
    if (secret !== undefined) secretNames.set(name, secret);
  }
  const endpointOf: EndpointOf = (of, call) => {
    const found = context.endpointOf(of, call);
    return found && found.api === endpoint?.api ? withoutAuth(found) : found;
  };
  const inner = { ...context, endpointOf, purpose: 'sign-in' as const };
  const outcome = await runInner(
    chain,
    { given, secretNames },
    { inside: 's', keyPrefix: `${context.keyPrefix}sign-in/` },
    inner,
  );
  if ('diagnostics' in outcome) return { problem: outcome.diagnostics[0]! };
  if (outcome.exit === 0) return { outputs: Object.fromEntries(outcome.outputs) };
  const message = `The chain ${file.text} failed to sign in`;
  return {
    problem: {
      code: 'not-authorized',
      message,
      advice: 'The reason is above. To run the chain by itself: batharon run.',
    },
  };
}
