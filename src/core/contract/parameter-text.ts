import type { Description } from './description.ts';
import type { Placed } from './documents.ts';
import { plainList, plainObject, plainText, pointerPart, type PlainObject } from './plain.ts';

/** The types that a schema allows, through references and `allOf`; none where it does not say. */
export function typesOf(schema: Placed, description: Description, depth = 0): readonly string[] {
  const at = description.documents.followed(schema);
  const own: PlainObject = plainObject(at.value) ?? {};
  const said = own['type'];
  if (said !== undefined) return Array.isArray(said) ? said.map(String) : [plainText(said) ?? ''];
  if (depth > 5) return [];
  for (const keyword of ['allOf', 'oneOf', 'anyOf']) {
    const found = plainList(own[keyword]).flatMap((value, i) =>
      typesOf({ file: at.file, pointer: `${at.pointer}/${keyword}${pointerPart(i)}`, value }, description, depth + 1),
    );
    if (found.length > 0) return found;
  }
  return [];
}

/** The value that a text in a header or a parameter stands for, by the type of its schema. */
export function valueOfText(text: string, schema: Placed, description: Description): unknown {
  const types = typesOf(schema, description);
  const has = (...names: readonly string[]) => names.some((name) => types.includes(name));
  if (has('string') || types.length === 0) return text;
  if (has('number', 'integer') && /^-?\d+(?:\.\d+)?(?:[eE][-+]?\d+)?$/.test(text)) return Number(text);
  if (has('boolean') && /^(?:true|false)$/.test(text)) return text === 'true';
  if (has('array')) {
    const at = description.documents.followed(schema);
    const items = plainObject(at.value)?.['items'];
    const below = { file: at.file, pointer: `${at.pointer}/items`, value: items };
    return text.split(',').map((each) => (items === undefined ? each : valueOfText(each.trim(), below, description)));
  }
  return text;
}
