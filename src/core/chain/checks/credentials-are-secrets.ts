import { wholeOf } from '../../diagnostics/source.ts';
import { plainTextOf, type NamedText, type TextTemplate } from '../../template/template.ts';
import { isDocumented } from '../../template/documentation.ts';
import { looksLikeSecret } from '../looks-like-secret.ts';
import { requestTexts } from '../parts.ts';
import { environmentName, type NamePlace } from '../secret-words.ts';
import type { Rule, RuleContext } from './rule.ts';

/** A credential is never written into a chain file: it is a secret by name. What documentation leaves open is not sent. */
export const credentialsAreSecrets: Rule = (context) => ({
  call({ request }) {
    const { headers, query, body } = request;
    checkNamed(headers, context, 'header');
    checkNamed(query, context, 'parameter');
    checkNamed(body?.named ?? [], context, body?.key === 'json' ? 'member' : 'parameter');
    for (const { part } of requestTexts(request)) if (part.sort === 'text') checkOpen(part.text, context);
  },
  text(template, { key }) {
    const text = plainTextOf(template);
    if (text !== undefined && key !== 'say') checkKnown(template, text, context);
  },
});

/** What documentation leaves open would be sent as it is. */
function checkOpen(template: TextTemplate, { reportIn }: RuleContext): void {
  const text = plainTextOf(template);
  if (text === undefined || !isDocumented(text)) return;
  const { source } = template;
  const message = `This looks like a placeholder of documentation: "${text}"`;
  const advice = 'Make it an input, and write its name in braces.';
  reportIn(source, { code: 'looks-like-placeholder', range: wholeOf(source), message, advice });
}

/** A text that is a secret of the project would be in every copy of the file. */
function checkKnown({ source }: TextTemplate, text: string, { secretNamed, reportIn }: RuleContext): void {
  const name = secretNamed(text);
  if (name === undefined) return;
  const message = `This is the value of the secret ${name}`;
  const advice = `Write "{secret.${name}}" in its place.`;
  reportIn(source, { code: 'secret-in-file', range: wholeOf(source), message, advice });
}

/** Literals among named values that look like credentials. */
export function checkNamed(
  entries: readonly NamedText[],
  { reportIn }: Pick<RuleContext, 'reportIn'>,
  place: NamePlace,
): void {
  for (const { name, value } of entries) {
    const said = value.kind === 'text' ? plainTextOf(value) : undefined;
    if (value.kind !== 'text' || said === undefined || isDocumented(said) || !looksLikeSecret(said, name, place))
      continue;
    const { source } = value;
    const secret = environmentName(name);
    const advice = `Put it into secrets.env as ${secret}=..., and write "{secret.${secret}}" here.`;
    reportIn(source, {
      code: 'looks-like-secret',
      range: wholeOf(source),
      message: 'This looks like a credential',
      advice,
    });
  }
}
