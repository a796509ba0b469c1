import { text, word } from '../../schema/leaves.ts';
import { mapping } from '../../schema/shape.ts';
import { fillText } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';
import { fixed, type AuthScheme, type Credential } from './definition.ts';

type ApiKey = Readonly<{ place: Credential['place']; name: string; value: TextTemplate }>;

const places = ['header', 'query', 'cookie'] as const;

/** A key in a header, a query parameter or a cookie, as an API wants it. */
export const apiKey: AuthScheme<ApiKey> = {
  name: 'api-key',
  schema: mapping({
    header: word('the name of a header').optional().describe('The header that carries the key.'),
    query: word('the name of a parameter').optional().describe('The query parameter that carries the key.'),
    cookie: word('the name of a cookie').optional().describe('The cookie that carries the key.'),
    value: text('the key').describe('The key, with any prefix that the API requires.'),
  })
    .transform((given, context): ApiKey => {
      const said = places.filter((place) => given[place] !== undefined);
      const place = said[0];
      if (said.length === 1 && place) return { place, name: given[place]!.text, value: given.value };
      context.issues.push({ code: 'custom', message: 'one of header, query and cookie', input: given });
      return { place: 'header', name: '', value: given.value };
    })
    .describe('A key in a header, a query parameter or a cookie.'),
  texts: ({ value }) => [value],
  carriers: ({ name }) => [name],
  authenticator: ({ place, name, value }) => fixed((resolver) => [{ place, name, value: fillText(value, resolver) }]),
};
