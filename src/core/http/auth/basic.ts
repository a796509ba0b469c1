import { text } from '../../schema/leaves.ts';
import { mapping } from '../../schema/shape.ts';
import { fillText } from '../../template/fill.ts';
import { base64Text } from '../../value/json-write.ts';
import type { TextTemplate } from '../../template/template.ts';
import { fixed, type AuthScheme } from './definition.ts';

type Basic = Readonly<{ user: TextTemplate; password: TextTemplate }>;

/** `Authorization: Basic ...` (RFC 7617), user and password in UTF-8. */
export const basic: AuthScheme<Basic> = {
  name: 'basic',
  schema: mapping({
    user: text('a user name').describe('The user name, without a colon.'),
    password: text('a password').describe('The password.'),
  }).describe('User name and password in the Authorization header (RFC 7617).'),
  texts: ({ user, password }) => [user, password],
  secrets: ({ password }) => [password],
  authenticator: ({ user, password }) =>
    fixed((resolver) => {
      const pair = `${fillText(user, resolver)}:${fillText(password, resolver)}`;
      // In a record the mask stays readable; what is sent is encoded.
      const value = resolver.forRecord ? pair : base64Text(new TextEncoder().encode(pair));
      return [{ place: 'header', name: 'Authorization', value: `Basic ${value}` }];
    }),
};
