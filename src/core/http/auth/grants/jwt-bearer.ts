import { signedToken } from '../../../expression/json-web-signature.ts';
import { fillValue } from '../../../template/fill.ts';
import { base64UrlText } from '../../../value/json-write.ts';
import { present } from '../../../value/present.ts';
import { DateTime, Duration, type ObjectValue, type Value } from '../../../value/value.ts';
import type { AuthProblem } from '../definition.ts';
import type { GrantContext, GrantKind } from './definition.ts';

const GRANT_TYPE = 'urn:ietf:params:oauth:grant-type:jwt-bearer';

/** Life of an assertion that the file does not bound: servers want it short. */
const LIFE = new Duration(5 * 60_000);

/** RFC 7523 section 2.1: a signed token says who asks. It is given whole, or made of claims. */
export const jwtBearer: GrantKind = {
  needs: [['assertion', 'claims']],
  needsPerson: false,
  request: async (context) => {
    const { oauth, server, client, clientAuth, options, parameters, host, text } = context;
    const made = context.definition.assertion ? { token: text('assertion') } : assertionOf(context);
    if ('problem' in made) return made;
    host.mark('assertion', made.token);
    const given = { ...parameters, assertion: made.token };
    return {
      response: await oauth.genericTokenEndpointRequest(server, client, clientAuth, GRANT_TYPE, given, options),
    };
  },
};

/** What RFC 7523 section 3 asks for stands in it by itself, unless the file says otherwise. */
function assertionOf({
  definition,
  host,
  text,
}: GrantContext): Readonly<{ token: string }> | Readonly<{ problem: AuthProblem }> {
  const now = host.clock.nowMs();
  const given: ObjectValue = Object.fromEntries(
    (definition.claims ?? []).flatMap(({ name, value }): readonly (readonly [string, Value])[] => {
      const filled = fillValue(value, host.resolver);
      return filled === 'left-out' ? [] : [[name, filled.value]];
    }),
  );
  const iss = given['iss'] ?? (definition['client-id'] && text('client-id'));
  const usual = present({
    iss,
    sub: iss,
    aud: text('token-url'),
    iat: new DateTime(now),
    exp: new DateTime(now + LIFE.milliseconds),
    jti: base64UrlText(host.randomBytes(16)),
  });
  const claims = Object.entries({ ...usual, ...given }).filter(([, value]) => value !== null);
  const signed = signedToken(Object.fromEntries(claims) as ObjectValue, text('key'), undefined, text('key-id'));
  if ('token' in signed) return signed;
  return { problem: { code: 'key-not-readable', ...signed } };
}
