import { text as textLeaf } from '../../schema/leaves.ts';
import { fillText } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';
import type { BodyKind } from './definition.ts';

/** A text as it stands, its placeholders filled. */
export const text: BodyKind<TextTemplate> = {
  key: 'text',
  schema: textLeaf().describe('Plain text, sent as it is.'),
  type: () => 'text/plain; charset=utf-8',
  texts: (template) => [template],
  build: fillText,
};
