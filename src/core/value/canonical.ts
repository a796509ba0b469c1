import { writeJson } from './json-write.ts';
import { isList, isObject, type Value } from './value.ts';

/** A value as canonical JSON (RFC 8785): members in the order of their names, so that equal values are equal texts. */
export function canonicalJson(value: Value): string {
  if (isList(value)) return `[${value.map(canonicalJson).join(',')}]`;
  if (!isObject(value)) return writeJson(value);
  let text = '';
  for (const name of Object.keys(value).sort())
    text += `${text === '' ? '' : ','}${JSON.stringify(name)}:${canonicalJson(value[name]!)}`;
  return `{${text}}`;
}
