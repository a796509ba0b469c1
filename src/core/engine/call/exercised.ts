import type { HttpRequest } from '../../http/message.ts';
import type { OperationRef } from '../../journal/records.ts';
import { heldTo } from '../expect/contract.ts';
import type { CallSite } from './site.ts';

/** The operation of its API's description that a request belongs to; it is counted as exercised. */
export function exercised({ endpoint, context }: CallSite, request: HttpRequest): OperationRef | undefined {
  const held = heldTo(endpoint, request, context.runHost);
  if (!held) return undefined;
  const file = endpoint!.contract!.file.text;
  const { exercised: seen } = context.run;
  let names = seen.get(file);
  if (!names) seen.set(file, (names = { of: held.contract.description.operations.length, names: new Set() }));
  if (!held.operation) return undefined;
  names.names.add(held.operation.name);
  return { name: held.operation.name, file };
}
