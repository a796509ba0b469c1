import type { Description } from './description.ts';
import { below, type Placed } from './documents.ts';
import { plainObject } from './plain.ts';
import { Shaper } from './shape-at.ts';

/** The value that a text in a header or a parameter stands for, by the type of its schema. */
export function valueOfText(text: string, schema: Placed, description: Description): unknown {
  const types = new Shaper(description).types([schema]);
  const has = (...names: readonly string[]) => names.some((name) => types.includes(name));
  if (has('string') || types.length === 0) return text;
  if (has('number', 'integer') && /^-?\d+(?:\.\d+)?(?:[eE][-+]?\d+)?$/.test(text)) return Number(text);
  if (has('boolean') && /^(?:true|false)$/.test(text)) return text === 'true';
  if (has('array')) {
    const at = description.documents.followed(schema);
    const items = plainObject(at.value)?.['items'];
    if (items === undefined) return text.split(',');
    return text.split(',').map((each) => valueOfText(each.trim(), below(at, ['items'], items), description));
  }
  return text;
}
