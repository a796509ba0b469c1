import { text as textLeaf } from '../../schema/leaves.ts';
import { fillFault, placeholderText, type Resolver } from '../../template/fill.ts';
import type { Placeholder, TextTemplate } from '../../template/template.ts';
import { unfitForXml } from '../../value/xml.ts';
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
  const message = unfitForXml(text);
  if (message !== undefined) {
    const advice = 'Remove it with replaced().';
    fillFault(placeholder.source, { code: 'invalid-value', range: placeholder.range, message, advice });
  }
  return text.replace(/[&<>"']/g, (sign) => ENTITIES[sign]!);
}
