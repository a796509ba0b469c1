import { joined, ownSecret, type Secrecy, type SecretLookup } from '../expression/secrecy.ts';
import { secretInTemplate } from '../template/secrecy.ts';
import type { InputDefinition } from './model.ts';

/** Why an input is secret: by its type, or by what its default reads. */
export function secrecyOfInput(input: InputDefinition, earlier: SecretLookup): Secrecy | undefined {
  const own = input.type === 'secret' ? ownSecret(input.name) : undefined;
  return joined(own, input.default && secretInTemplate(input.default, earlier));
}
