import { joined, secretIn, type Secrecy, type SecretLookup } from '../expression/secrecy.ts';
import { textsOf, type ValueTemplate } from './template.ts';

/** Why a template's value is secret: by what its placeholders read. */
export function secretInTemplate(template: ValueTemplate, secretNames: SecretLookup): Secrecy | undefined {
  let found: Secrecy | undefined;
  for (const { pieces } of textsOf(template)) {
    for (const piece of pieces) {
      if (typeof piece !== 'string') found = joined(found, secretIn(piece.node, secretNames));
    }
  }
  return found;
}
