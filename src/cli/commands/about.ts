import type { Command } from 'commander';
import {
  allPages,
  findPages,
  nearestTopic,
  pagesMentioning,
  reference,
  type Section,
} from '../../core/reference/find.ts';
import type { Page } from '../../core/reference/page.ts';
import type { ExitStatus, Io } from '../io.ts';
import { CommandError } from '../../runner/command-error.ts';
import { paletteOf, type Palette } from '../view/palette.ts';
import { padded, wrapped } from '../view/text.ts';
import { showOperation } from '../described.ts';
import { examples, type CommandModule } from './definition.ts';
import { formOption, type Form } from './options.ts';

/** `about [TOPIC]`: the reference, offline: a key, a function, a message code. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub)
      .argument('[topic...]', 'a key, name, function, message code or topic; lists all of them by default')
      .action((words: readonly string[], { as }: Readonly<{ as: Form }>) =>
        run((io) => Promise.resolve(execute(words.length === 0 ? undefined : words.join(' '), as, io))),
      );
    examples(
      sub,
      'batharon about keep',
      'batharon about sorted',
      'batharon about needs-quotes',
      'batharon about "GET /vessels/{id}"',
      'batharon about',
    );
  },
};

function execute(topic: string | undefined, as: Form, io: Io): ExitStatus {
  const palette = paletteOf(io.colors);
  const width = Math.min(io.columns, 100);
  if (topic === undefined) {
    if (as === 'json') return putJson(allPages(), io);
    io.exit.out(
      `${reference()
        .map((section) => contents(section, palette, width))
        .join('\n\n')}\n`,
    );
    return 0;
  }
  if (as === 'text' && showOperation(topic, io)) return 0;
  const named = findPages(topic);
  const near = named.length > 0 ? undefined : nearestTopic(topic);
  const pages = named.length > 0 || near !== undefined ? named : pagesMentioning(topic);
  if (pages.length === 0) {
    const advice = near ? `Did you mean "${near}"?` : 'To list all topics: batharon about';
    throw new CommandError('invalid-option', `The reference has no page on "${topic}"`, advice);
  }
  if (as === 'json') return putJson(pages, io);
  io.exit.out(`${pages.map((page) => showPage(page, palette, width)).join('\n\n')}\n`);
  return 0;
}

function putJson(pages: readonly Page[], io: Io): ExitStatus {
  io.exit.out(`${JSON.stringify(pages, null, 2)}\n`);
  return 0;
}

/** The names of a section, group by group, in lines of the terminal's width. */
function contents({ title, groups }: Section, palette: Palette, width: number): string {
  const lines = groups.flatMap(({ heading, pages }) => [
    `  ${palette.quiet(heading)}`,
    ...wrapped(pages.map(({ name }) => name).join('  '), width - 4).map((line) => `    ${line}`.trimEnd()),
  ]);
  return [palette.strong(title), ...lines].join('\n');
}

function showPage({ heading, kind, paragraphs, rows, example }: Page, palette: Palette, width: number): string {
  const labelWidth = Math.max(8, ...rows.map(({ label }) => label.length)) + 2;
  const told = rows.flatMap(({ label, text }) =>
    wrapped(text, width - labelWidth - 2).map(
      (line, i) => `  ${palette.name(padded(i === 0 ? label : '', labelWidth))}${line}`,
    ),
  );
  return [
    palette.strong(heading),
    ...paragraphs.flatMap((paragraph) => wrapped(paragraph, width - 2).map((line) => `  ${line}`)),
    ...(told.length > 0 ? ['', ...told] : []),
    ...(example === undefined
      ? []
      : [
          '',
          ...(kind === 'code' ? ['  An example that causes it:'] : []),
          ...example.split('\n').map((line) => palette.quiet(`    ${line}`)),
        ]),
  ].join('\n');
}
