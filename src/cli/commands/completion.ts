import { Argument, type Command } from 'commander';
import type { ExitStatus, Io } from '../io.ts';
import { examples, type CommandEntry, type CommandModule } from './definition.ts';
import { GLOBAL_OPTIONS } from '../global-options.ts';

/** `completion SHELL`: what a shell needs to complete commands, options and chain files. */
export const command: CommandModule = {
  define: (sub: Command, run, entries) => {
    sub
      .addArgument(new Argument('<shell>', 'shell to complete for').choices(['bash', 'zsh', 'fish']))
      .action((shell: keyof typeof scripts) => run((io) => execute(shell, sub.parent!, entries, io)));
    examples(
      sub,
      'source <(batharon completion bash)',
      'batharon completion fish > ~/.config/fish/completions/batharon.fish',
    );
  },
};

/** The long names of the options of every command. */
const GLOBAL = GLOBAL_OPTIONS.flatMap(({ flags, about }) => `${flags} ${about}`.match(/--[a-z][a-z-]*/g) ?? []);

type Words = Readonly<{ name: string; summary: string; options: readonly string[] }>;

async function execute(
  shell: keyof typeof scripts,
  program: Command,
  entries: readonly CommandEntry[],
  io: Io,
): Promise<ExitStatus> {
  const words = await Promise.all(
    entries.map(async ({ name, summary, load }): Promise<Words> => {
      const sub = program.createCommand(name);
      (await load()).command.define(sub, async () => {}, entries);
      const own = sub.options.flatMap(({ long }) => (long ? [long] : []));
      return { name, summary, options: [...own, ...GLOBAL] };
    }),
  );
  io.exit.out(scripts[shell](words));
  return 0;
}

const scripts = {
  bash: (words: readonly Words[]) => `# bash completion of batharon
_batharon() {
  local word="\${COMP_WORDS[COMP_CWORD]}" command="\${COMP_WORDS[1]}" options=""
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=( $(compgen -W "${words.map(({ name }) => name).join(' ')}" -- "$word") )
    return
  fi
  case "$command" in
${words.map(({ name, options }) => `    ${name}) options="${options.join(' ')}" ;;`).join('\n')}
  esac
  case "$word" in
    -*) COMPREPLY=( $(compgen -W "$options" -- "$word") ) ;;
    *) COMPREPLY=( $(compgen -f -- "$word") ) ;;
  esac
}
complete -o filenames -F _batharon batharon
`,
  zsh: (words: readonly Words[]) => `#compdef batharon
_batharon() {
  local -a commands
  commands=(
${words.map(({ name, summary }) => `    '${name}:${summary.replaceAll("'", '')}'`).join('\n')}
  )
  if (( CURRENT == 2 )); then
    _describe 'command' commands
    return
  fi
  case "$words[2]" in
${words.map(({ name, options }) => `    ${name}) _arguments ${options.map((each) => `'${each}[]'`).join(' ')} '*:file:_files' ;;`).join('\n')}
  esac
}
compdef _batharon batharon
`,
  fish: (words: readonly Words[]) =>
    [
      '# fish completion of batharon',
      ...words.map(
        ({ name, summary }) =>
          `complete -c batharon -n __fish_use_subcommand -f -a ${name} -d '${summary.replaceAll("'", '')}'`,
      ),
      ...words.flatMap(({ name, options }) =>
        options.map((each) => `complete -c batharon -n '__fish_seen_subcommand_from ${name}' -l ${each.slice(2)}`),
      ),
      '',
    ].join('\n'),
};
