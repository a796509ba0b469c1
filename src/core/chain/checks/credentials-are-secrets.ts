import { wholeOf } from '../../diagnostics/source.ts';
import type { Named } from '../../schema/leaves.ts';
import { plainTextOf, type ValueTemplate } from '../../template/template.ts';
import { looksLikeSecret } from '../looks-like-secret.ts';
import type { Rule, RuleContext } from './rule.ts';

/** A credential is never written into a chain file: it is a secret by name. */
export const credentialsAreSecrets: Rule = (context) => ({
  call({ request }) {
    checkNamed(request.headers, context);
    checkNamed(request.query, context);
  },
});

/** Literals among named values that look like credentials. */
export function checkNamed(entries: Named<ValueTemplate>, { reportIn }: Pick<RuleContext, 'reportIn'>): void {
  for (const { name, value } of entries) {
    const said = value.kind === 'text' ? plainTextOf(value) : undefined;
    if (value.kind !== 'text' || said === undefined || !looksLikeSecret(said, name)) continue;
    const { source } = value;
    const secret = name.toUpperCase().replace(/[^A-Z0-9]+/g, '_');
    const advice = `Put it into secrets.env as ${secret}=..., and write "{secret.${secret}}" here.`;
    reportIn(source, {
      code: 'looks-like-secret',
      range: wholeOf(source),
      message: 'This looks like a credential',
      advice,
    });
  }
}
