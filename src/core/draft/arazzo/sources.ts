import type { Contract } from '../../contract/contract.ts';
import type { Placed } from '../../contract/documents.ts';
import type { Operation } from '../../contract/operation.ts';
import { plainObject, plainObjects, plainText, type PlainObject } from '../../contract/plain.ts';
import { pointerKeys } from '../../value/json-pointer.ts';

/** Descriptions that a document names, by their names. */
export function sourcesOf(root: Placed): readonly Readonly<{ name: string; url: string; type: string }>[] {
  return plainObjects(plainObject(root.value)?.['sourceDescriptions']).map(({ name, url, type }) => ({
    name: String(name as string),
    url: String(url as string),
    type: String((type as string | undefined) ?? 'openapi'),
  }));
}

/** The operation of a step: by its id, `$sourceDescriptions.NAME.id`, or a pointer into a description. */
export function operationOf(step: PlainObject, contracts: ReadonlyMap<string, Contract>): Operation | undefined {
  const id = plainText(step['operationId']);
  const [, source, plain] = /^\$sourceDescriptions\.([\w-]+)\.(.+)$/.exec(id ?? '') ?? [];
  if (id !== undefined) {
    const among = source === undefined ? [...contracts.values()] : [contracts.get(source)];
    return among.flatMap((each) => each?.description.operation(plain ?? id) ?? [])[0];
  }
  const path = plainText(step['operationPath']);
  const [, named, pointer = ''] = /^\{?\$sourceDescriptions\.([\w-]+)\.url\}?#(.+)$/.exec(path ?? '') ?? [];
  const [, target, method] = pointerKeys(pointer);
  return contracts.get(named ?? '')?.description.operation(`${method?.toUpperCase()} ${target}`);
}
