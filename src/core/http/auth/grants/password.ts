import type { GrantKind } from './definition.ts';

/** RFC 6749 section 4.3: name and password of a user, for servers that offer nothing better. */
export const password: GrantKind = {
  needs: ['client-id', 'user', 'password'],
  needsPerson: false,
  request: async ({ oauth, server, client, clientAuth, parameters, options, text }) => {
    const given = { ...parameters, username: text('user'), password: text('password') };
    return {
      response: await oauth.genericTokenEndpointRequest(server, client, clientAuth, 'password', given, options),
    };
  },
};
