import type { GrantKind } from './definition.ts';

/** RFC 6749 section 4.4: the client itself is who is authorized. */
export const clientCredentials: GrantKind = {
  needs: ['client-id'],
  needsPerson: false,
  request: async ({ oauth, server, client, clientAuth, parameters, options }) => ({
    response: await oauth.clientCredentialsGrantRequest(server, client, clientAuth, { ...parameters }, options),
  }),
};
