import { codeHover, hoverAt } from '../../core/editor/hover.ts';
import type { Feature } from '../feature.ts';

/** What a key, a function, a name or a path means, and what it was in the last run; where something is wrong, what that means. */
export const hover: Feature = {
  capabilities: { hoverProvider: true },
  register(connection, desk) {
    connection.onHover(({ textDocument, position }) => {
      const opened = desk.opened(textDocument.uri);
      if (!opened) return null;
      const { buffer, project, kind } = opened;
      const { lines, file } = buffer;
      const offset = lines.offsetAt(position);
      const view = kind === 'chain' ? project.viewOf(file) : undefined;
      const found = hoverAt({ path: file, text: lines.text }, offset, kind, view?.symbols, project.around(file));
      const problems = desk.checker.problemsOf(file);
      const wrong = problems.find(({ range: [start, end] }) => start <= offset && offset <= end);
      const code = wrong && codeHover(wrong.code, wrong.range);
      const text = [found?.text, code?.text].filter((each) => each !== undefined).join('\n\n---\n\n');
      const range = found?.range ?? code?.range;
      return text === '' || !range
        ? null
        : { contents: { kind: 'markdown', value: text }, range: lines.rangeOf(range) };
    });
  },
};
