import { parameter, type Named } from '../../schema/leaves.ts';
import { fillFault, parameterValues } from '../../template/fill.ts';
import { entriesOf, namedOrWhole } from '../../schema/whole-object.ts';
import { namedTexts, textsOf, type ValueTemplate } from '../../template/template.ts';
import { encodeUnreserved } from '../../value/percent.ts';
import { textOf } from '../../value/text.ts';
import type { BodyKind } from './definition.ts';

/** `application/x-www-form-urlencoded` (WHATWG URL section 5): null is left out, a list repeats its field. */
export const form: BodyKind<Named<ValueTemplate>> = {
  key: 'form',
  schema: namedOrWhole(parameter()).describe('Fields of a form by name; null omits a field, an array repeats it.'),
  type: () => 'application/x-www-form-urlencoded',
  texts: (fields) => fields.flatMap(({ value }) => textsOf(value)),
  named: (fields) => fields.flatMap(({ name, value }) => namedTexts(value, name)),
  build: (fields, resolver) =>
    entriesOf(fields, resolver)
      .flatMap(({ name, nameRange, file, value }) =>
        parameterValues(value, resolver).map((each) => {
          const text = textOf(each);
          if (typeof text === 'string') return `${encoded(name)}=${encoded(text)}`;
          const message = `The field "${name}" is ${text.what}, which a form field cannot represent`;
          const source = { file, text: name, locate: () => nameRange };
          return fillFault(source, { code: 'invalid-value', range: nameRange, message, advice: text.advice });
        }),
      )
      .join('&'),
};

/** Percent-encoding of the form set: all but letters, digits and `*-._`, and a blank as `+`. */
function encoded(text: string): string {
  return encodeUnreserved(text).replaceAll('~', '%7E').replaceAll('%2A', '*').replaceAll('%20', '+');
}
