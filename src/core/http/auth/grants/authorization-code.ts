import { base64UrlText } from '../../../value/json-write.ts';
import type { GrantKind } from './definition.ts';

/** Time that a person has to sign in. */
const WAIT_MS = 5 * 60_000;

/** RFC 6749 section 4.1 with PKCE (RFC 7636): a person signs in in the browser, which comes back to this machine. */
export const authorizationCode: GrantKind = {
  needs: ['client-id', 'authorize-url'],
  needsPerson: true,
  request: async ({ oauth, server, client, clientAuth, definition, host, parameters, options, text }) => {
    const state = base64UrlText(host.randomBytes(16));
    const verifier = base64UrlText(host.randomBytes(32));
    const listener = await host.help.listen(definition['redirect-port'] ?? 0, state);
    try {
      const address = new URL(text('authorize-url'));
      const asked = {
        response_type: 'code',
        client_id: client.client_id,
        redirect_uri: listener.address,
        state,
        code_challenge: await oauth.calculatePKCECodeChallenge(verifier),
        code_challenge_method: 'S256',
        ...parameters,
      };
      for (const [name, value] of Object.entries(asked)) address.searchParams.set(name, value);
      host.help.open(address.href, 'Sign in in the browser');
      const arrived = await listener.arrived(WAIT_MS, host.signal);
      if (arrived === undefined) {
        const message = 'Nobody signed in within 5 minutes';
        return {
          problem: { code: 'sign-in-needed', message, advice: 'Run the command again, and sign in in the browser.' },
        };
      }
      const returned = new URL(arrived);
      const refused = returned.searchParams.get('error');
      if (refused !== null) {
        const words = returned.searchParams.get('error_description');
        const message = `The sign-in was refused: ${refused}${words ? ` (${words})` : ''}`;
        return { problem: { code: 'not-authorized', message } };
      }
      const foreign = foreignIssuer(returned, server.issuer, text('authorize-url'), definition.issuer !== undefined);
      if (foreign) return { problem: { code: 'not-authorized', message: foreign } };
      returned.searchParams.delete('iss');
      host.mark('code', returned.searchParams.get('code') ?? '');
      const validated = oauth.validateAuthResponse(server, client, returned, state);
      const response = await oauth.authorizationCodeGrantRequest(
        server,
        client,
        clientAuth,
        validated,
        listener.address,
        verifier,
        options,
      );
      return { response };
    } finally {
      listener.close();
    }
  },
};

/** RFC 9207: a response that names another issuer may have been mixed up with another server's. */
function foreignIssuer(returned: URL, issuer: string, authorizeUrl: string, isDeclared: boolean): string | undefined {
  const named = returned.searchParams.get('iss');
  if (named === null) return undefined;
  const fits = isDeclared
    ? named === issuer
    : URL.canParse(named) && new URL(named).origin === new URL(authorizeUrl).origin;
  return fits ? undefined : `The sign-in came from the issuer ${named}, not from the expected one`;
}
