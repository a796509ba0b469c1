import { text as textLeaf } from '../../schema/leaves.ts';
import { fillFault, placeholderText, type Resolver } from '../../template/fill.ts';
import type { Placeholder, TextTemplate } from '../../template/template.ts';
import type { BodyKind } from './definition.ts';

/** An XML text; the values in its placeholders are escaped, so that none can become markup (XML 1.0 section 2.4). */
export const xml: BodyKind<TextTemplate> = {
  key: 'xml',
  schema: textLeaf().describe('An XML document; values in its placeholders are escaped.'),
  type: () => 'application/xml; charset=utf-8',
  texts: (template) => [template],
  build: ({ pieces }, resolver) =>
    pieces.map((piece) => (typeof piece === 'string' ? piece : escaped(piece, resolver))).join(''),
};

const ENTITIES: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&apos;',
};

function escaped(placeholder: Placeholder, resolver: Resolver): string {
  const text = placeholderText(placeholder, resolver.value(placeholder));
  // XML 1.0 section 2.2: what no document may hold, not even escaped.
  const bad = /[\0-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])/.exec(text);
  if (bad) {
    const code = bad[0].charCodeAt(0).toString(16).toUpperCase().padStart(4, '0');
    const message = `The value has the character U+${code}, which XML cannot represent`;
    fillFault(placeholder.source, {
      code: 'invalid-value',
      range: placeholder.range,
      message,
      advice: 'Remove it with replaced().',
    });
  }
  return text.replace(/[&<>"']/g, (sign) => ENTITIES[sign]!);
}
