import { named, parameter, type Named } from '../../schema/leaves.ts';
import { fillFault, fillValue } from '../../template/fill.ts';
import { textsOf, type ValueTemplate } from '../../template/template.ts';
import { textOf } from '../../value/text.ts';
import { isList, type Value } from '../../value/value.ts';
import type { BodyKind } from './definition.ts';

/** `application/x-www-form-urlencoded` (WHATWG URL section 5): null is left out, a list repeats its field. */
export const form: BodyKind<Named<ValueTemplate>> = {
  key: 'form',
  schema: named(parameter()).describe('Fields of a form by name; null leaves one out, a list repeats it.'),
  type: 'application/x-www-form-urlencoded',
  texts: (fields) => fields.flatMap(({ value }) => textsOf(value)),
  build: (fields, resolver) =>
    fields
      .flatMap(({ name, nameRange, file, value }) => {
        const filled = fillValue(value, resolver);
        if (filled === 'left-out' || filled.value === null) return [];
        const values: readonly Value[] = isList(filled.value) ? filled.value : [filled.value];
        return values.map((each) => {
          const text = textOf(each);
          if (typeof text === 'string') return `${encoded(name)}=${encoded(text)}`;
          const message = `The field "${name}" is ${text.what}, which has no form in a field`;
          const source = { file, text: name, locate: () => nameRange };
          return fillFault(source, { code: 'bad-value', range: nameRange, message, advice: text.advice });
        });
      })
      .join('&'),
};

/** Percent-encoding of the form set: all but letters, digits and `*-._`, and a blank as `+`. */
function encoded(text: string): string {
  return encodeURIComponent(text.toWellFormed?.() ?? text)
    .replace(/[!'()~]/g, (sign) => `%${sign.charCodeAt(0).toString(16).toUpperCase()}`)
    .replaceAll('%20', '+');
}
