import { catalogue, type Code } from '../diagnostics/catalogue.ts';
import type { CodeExample } from './codes/definition.ts';
import { codeGroups } from './codes/list.ts';
import type { Page, PageGroup } from './page.ts';

/** Every message code, by when it can come. */
export function codePageGroups(): readonly PageGroup[] {
  return codeGroups.map(({ heading, pages }) => ({
    heading,
    pages: Object.entries(pages).map(([code, { about, example }]): Page => {
      const { level, title } = catalogue[code as Code];
      return {
        name: code,
        kind: 'code',
        heading: `${level} ${code}: ${title}`,
        paragraphs: [about],
        rows: [],
        example: exampleText(example),
      };
    }),
  }));
}

/** What of an example is worth reading; command lines that need a prepared folder are not. */
function exampleText(example: CodeExample): string | undefined {
  if ('steps' in example) return example.steps;
  if ('chain' in example) return example.chain.length > 400 ? undefined : example.chain.trimEnd();
  if ('project' in example) return example.project.trimEnd();
  if ('run' in example) return example.run;
  return example.command.startsWith('@') ? undefined : `batharon ${example.command}`;
}
