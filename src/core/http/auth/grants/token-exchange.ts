import type { GrantKind } from './definition.ts';

const GRANT_TYPE = 'urn:ietf:params:oauth:grant-type:token-exchange';
const ACCESS_TOKEN = 'urn:ietf:params:oauth:token-type:access_token';

/** RFC 8693 section 2.1: a token that one has, for one that this API takes. */
export const tokenExchange: GrantKind = {
  needs: ['subject-token'],
  needsPerson: false,
  request: async ({ oauth, server, client, clientAuth, options, parameters, host, text }) => {
    const subject = text('subject-token');
    host.mark('subject_token', subject);
    const actor = text('actor-token');
    if (actor !== '') host.mark('actor_token', actor);
    const given = {
      ...parameters,
      subject_token: subject,
      subject_token_type: text('subject-token-type') || ACCESS_TOKEN,
      ...(actor === '' ? {} : { actor_token: actor, actor_token_type: text('actor-token-type') || ACCESS_TOKEN }),
    };
    return {
      response: await oauth.genericTokenEndpointRequest(server, client, clientAuth, GRANT_TYPE, given, options),
    };
  },
};
