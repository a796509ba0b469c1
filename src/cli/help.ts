import type { Argument, Command, Help, Option } from 'commander';
import type { CommandEntry } from './commands/definition.ts';
import { commandGroups } from './commands/list.ts';
import { GLOBAL_OPTIONS } from './global-options.ts';
import { padded, wrapped } from './view/text.ts';

type Row = Readonly<{ term: string; text: string }>;

/** Columns for options and arguments; a longer one has its description below it. */
const TERM_WIDTH = 26;

/** The help of all commands: what each does in a line, and whether it uses the network. */
export function helpOfProgram(columns: number): string {
  const widest = Math.max(...commandGroups.flatMap(({ commands }) => commands.map(({ name }) => name.length)));
  const summaries = commandGroups.flatMap(({ commands }) => commands.map(({ summary }) => summary.length));
  const room = Math.min(Math.max(...summaries), columns - widest - 14);
  const groups = commandGroups.map(({ heading, commands }) => {
    const lines = commands.flatMap(({ name, summary, uses }) =>
      wrapped(summary, room).map((line, i) =>
        `  ${padded(i === 0 ? name : '', widest)}  ${padded(line, room)}  ${i === 0 ? uses : ''}`.trimEnd(),
      ),
    );
    return `${heading}:\n${lines.join('\n')}`;
  });
  return [
    'Usage: batharon COMMAND [OPTIONS]',
    'Specify, run and check chains of HTTP API requests.',
    ...groups,
    'local: works offline; network: sends requests',
    section(
      'Options of every command',
      [...GLOBAL_OPTIONS.map(rowOfGlobal), { term: '--version', text: 'print the version' }],
      columns,
    ),
    'Help on a command: batharon COMMAND --help\nSee it work: batharon demo\n',
  ].join('\n\n');
}

/** The help of one command, laid out like the page of all: usage, one sentence, arguments, options, examples. */
export function helpOfCommand(
  command: Command,
  helper: Help,
  entry: CommandEntry,
  examples: readonly string[],
  columns: number,
): string {
  const args = command.registeredArguments.map(argumentRow);
  const groups = new Map<string, Row[]>();
  for (const option of helper.visibleOptions(command)) {
    if (option.long === '--help') continue;
    const heading = option.helpGroupHeading ?? 'Options';
    groups.set(heading, [...(groups.get(heading) ?? []), optionRow(option)]);
  }
  const names = command.registeredArguments.map((each) => {
    const name = `${metavar(each.name())}${each.variadic ? '...' : ''}`;
    return each.required ? name : `[${name}]`;
  });
  const sentence = `${entry.summary[0]!.toUpperCase()}${entry.summary.slice(1)}`;
  const uses = entry.uses === 'network' ? 'It sends requests.' : 'It works offline.';
  return [
    ['Usage: batharon', entry.name, ...names, '[OPTIONS]'].join(' '),
    ...wrapped(`${sentence}. ${uses}`, columns),
    ...(args.length > 0 ? ['', section('Arguments', args, columns)] : []),
    ...[...groups].flatMap(([heading, rows]) => ['', section(heading, rows, columns)]),
    '',
    section('Options of every command', GLOBAL_OPTIONS.map(rowOfGlobal), columns),
    ...(examples.length > 0 ? ['', `Examples:\n${examples.map((line) => `  ${line}`).join('\n')}`] : []),
    '',
  ].join('\n');
}

function section(heading: string, rows: readonly Row[], columns: number): string {
  const lines = rows.flatMap(({ term, text }) => {
    const parts = wrapped(text, Math.max(30, columns - TERM_WIDTH - 4));
    const isLong = term.length > TERM_WIDTH;
    return [
      ...(isLong ? [`  ${term}`] : []),
      ...parts.map((line, i) => `  ${padded(i === 0 && !isLong ? term : '', TERM_WIDTH)}  ${line}`.trimEnd()),
    ];
  });
  return `${heading}:\n${lines.join('\n')}`;
}

function rowOfGlobal({ flags, about }: (typeof GLOBAL_OPTIONS)[number]): Row {
  return { term: flags, text: about };
}

function argumentRow(argument: Argument): Row {
  const choices = argument.argChoices ? ` (${argument.argChoices.join(', ')})` : '';
  return { term: metavar(argument.name()), text: `${argument.description}${choices}` };
}

function optionRow({ flags, description, argChoices, defaultValue }: Option): Row {
  const term = flags.replace(/([<[])([^>\]]*)[>\]]/, (_all, open: string, name: string) =>
    open === '<' ? metavar(name) : `[${metavar(name)}]`,
  );
  const chosen = argChoices?.map((each) => (each === defaultValue ? `${each} (default)` : each));
  const isTold = typeof defaultValue === 'string' && !argChoices && !description.includes('default:');
  return {
    term,
    text: `${description}${chosen ? `: ${chosen.join(', ')}` : ''}${isTold ? ` (default: ${defaultValue})` : ''}`,
  };
}

/** `name=value` as `NAME=VALUE`. */
function metavar(name: string): string {
  return name.toUpperCase();
}
