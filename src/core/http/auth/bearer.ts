import { text } from '../../schema/leaves.ts';
import { fillText } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';
import { fixed, type AuthScheme } from './definition.ts';

/** `Authorization: Bearer ...` (RFC 6750 section 2.1). */
export const bearer: AuthScheme<TextTemplate> = {
  name: 'bearer',
  schema: text('a string such as "{secret.TOKEN}"').describe('A bearer token in the Authorization header (RFC 6750).'),
  texts: (token) => [token],
  authenticator: (token) =>
    fixed((resolver) => [{ place: 'header', name: 'Authorization', value: `Bearer ${fillText(token, resolver)}` }]),
};
