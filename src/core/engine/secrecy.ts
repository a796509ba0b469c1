import { secretIn, type SecretLookup } from '../expression/secrecy.ts';
import { textsOf, type ValueTemplate } from '../template/template.ts';

/** The name under which a template's value is secret: that of the first secret in its placeholders. */
export function secretInTemplate(template: ValueTemplate, secretNames: SecretLookup): string | undefined {
  for (const { pieces } of textsOf(template)) {
    for (const piece of pieces) {
      const name = typeof piece === 'string' ? undefined : secretIn(piece.node, secretNames);
      if (name !== undefined) return name;
    }
  }
  return undefined;
}
