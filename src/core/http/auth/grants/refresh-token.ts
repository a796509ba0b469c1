import type { GrantKind } from './definition.ts';

/** RFC 6749 section 6, with a refresh token that the file gives to begin with. */
export const refreshToken: GrantKind = {
  needs: ['client-id', 'refresh-token'],
  needsPerson: false,
  request: async ({ oauth, server, client, clientAuth, options, text }) => ({
    response: await oauth.refreshTokenGrantRequest(server, client, clientAuth, text('refresh-token'), options),
  }),
};
