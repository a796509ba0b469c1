import type { Chain } from '../chain/model.ts';
import type { Auth, AuthProblem } from '../http/auth/definition.ts';
import type { Endpoint } from '../http/endpoint.ts';
import { authHost } from './call/auth-host.ts';
import { openRun, type RunRequest } from './run-chain.ts';
import { resolversFor } from './resolvers.ts';

/** What came of signing in: nothing to be done for schemes that only add to requests, or why it failed. */
export type SignedIn = Readonly<{ did: 'signed-in' | 'nothing-to-do' }> | Readonly<{ problem: AuthProblem }>;

/** Does the authentication of an api alone, its requests recorded as those of any run. `chain` is one without steps. */
export async function signIn(
  request: RunRequest & Readonly<{ chain: Chain }>,
  endpoint: Endpoint,
  auth: Auth,
): Promise<SignedIn> {
  const context = openRun(request);
  const resolvers = resolversFor(context, endpoint);
  const authenticator = context.sessions.authenticatorOf(auth, resolvers.real);
  if (!authenticator.ready) return { did: 'nothing-to-do' };
  const host = authHost({ endpoint, resolvers, context: { ...context, address: '1/sign-in', key: 'sign-in' } });
  const problem = await authenticator.ready(host);
  return problem ? { problem } : { did: 'signed-in' };
}
