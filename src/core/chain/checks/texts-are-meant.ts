import { plainTextOf } from '../../template/template.ts';
import type { Rule } from './rule.ts';

/** A text that is exactly a path, or a name in scope, is sent as words; a placeholder was probably meant. */
export const textsAreMeant: Rule = ({ reportIn }) => ({
  text(template, { names }) {
    if (plainTextOf(template) === undefined) return;
    const { source } = template;
    const { text } = source;
    const isPath = /^\$[.[]/.test(text);
    if (!isPath && !names.has(text)) return;
    const message = `This is sent literally as "${text}"`;
    const advice = isPath
      ? 'Keep the value in the earlier call, and write its name in braces.'
      : `Did you mean "{${text}}"?`;
    reportIn(source, {
      code: 'sent-literally',
      range: [0, text.length],
      message,
      advice,
      ...(isPath ? {} : { fix: { range: [0, text.length], text: `{${text}}` } }),
    });
  },
});
