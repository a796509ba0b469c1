import type { Section } from './find.ts';
import { reference } from './find.ts';
import type { Page } from './page.ts';

/** The files of `docs/reference/`, by name. */
export function referenceFiles(): Readonly<Record<string, string>> {
  const [keys, functions, codes] = reference();
  return {
    'keys.md': fileOf(keys!, 'What each key of a project or chain file takes.', keyTable),
    'functions.md': fileOf(
      functions!,
      'Functions of expressions. In the examples `$` is a small answer of the harbour.',
      pageText,
    ),
    'codes.md': fileOf(
      codes!,
      'Every message code: what it means and what to do. `batharon about CODE` shows the same.',
      pageText,
    ),
  };
}

const NOTE = 'This file is made by `npm run reference` from the definitions in the code.';

function fileOf({ title, groups }: Section, about: string, write: (page: Page, i: number) => string): string {
  const parts = groups.map(
    ({ heading, pages }) => `## ${heading}\n\n${pages.map(write).join(write === keyTable ? '\n' : '\n\n')}`,
  );
  return `# ${title}\n\n${about} ${NOTE}\n\n${parts.join('\n\n')}\n`;
}

/** A line of the table of a mapping's keys; the first one begins the table. */
function keyTable({ name, paragraphs, rows }: Page, i: number): string {
  const head = i === 0 ? '| key | takes | |\n| --- | --- | --- |\n' : '';
  const needed = rows.find(({ label }) => label === 'needed')?.text === 'always' ? ' (needed)' : '';
  const inputs = rows.find(({ label }) => label === 'inputs')?.text ?? '';
  return `${head}| \`${name}\`${needed} | ${cell(inputs)} | ${cell(paragraphs.join(' '))} |`;
}

function cell(text: string): string {
  return text.replaceAll('|', '\\|').replaceAll('\n', ' ');
}

function pageText({ heading, kind, name, paragraphs, rows, example }: Page): string {
  const title = kind === 'code' ? name : `\`${heading}\``;
  const intro = kind === 'code' ? [`_${heading}_`] : [];
  const list = rows.map(({ label, text }) => `- ${label}: ${text}`);
  return [
    `### ${title}`,
    ...intro,
    ...paragraphs,
    ...(list.length > 0 ? [list.join('\n')] : []),
    ...(example === undefined ? [] : [`\`\`\`${kind === 'code' ? 'yaml' : 'text'}\n${example}\n\`\`\``]),
  ].join('\n\n');
}
