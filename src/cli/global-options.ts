import { CommandError } from '../runner/command-error.ts';

/** What every command accepts, before or after its name. */
export type GlobalOptions = Readonly<{
  color: 'auto' | 'always' | 'never';
  prompt: boolean;
  trustedOnly: boolean;
  debug: boolean;
}>;

/** The same as the help lists it. */
export const GLOBAL_OPTIONS: readonly Readonly<{ flags: string; about: string }>[] = [
  { flags: '--color WHEN', about: 'when to use colour: auto, always or never; --no-color is the same as never' },
  { flags: '--no-prompt', about: 'never ask a question; what is missing is an error' },
  { flags: '--trusted-only', about: 'send secrets only where somebody has agreed to it on a terminal' },
  { flags: '--debug', about: 'print the stack trace of an internal error' },
  { flags: '-h, --help', about: 'show help' },
];

const WHEN = ['auto', 'always', 'never'] as const;

/** Takes the global options out of a command line; what comes after `--` is left alone. */
export function takeGlobalOptions(
  argv: readonly string[],
): Readonly<{ rest: readonly string[]; global: GlobalOptions }> {
  const rest: string[] = [];
  let global: GlobalOptions = { color: 'auto', prompt: true, trustedOnly: false, debug: false };
  for (let i = 0; i < argv.length; i++) {
    const word = argv[i]!;
    if (word === '--') return { rest: [...rest, ...argv.slice(i)], global };
    if (word === '--debug') global = { ...global, debug: true };
    else if (word === '--trusted-only') global = { ...global, trustedOnly: true };
    else if (word === '--no-prompt') global = { ...global, prompt: false };
    else if (word === '--no-color') global = { ...global, color: 'never' };
    else if (word === '--color') global = { ...global, color: whenOf(argv[++i]) };
    else if (word.startsWith('--color=')) global = { ...global, color: whenOf(word.slice('--color='.length)) };
    else rest.push(word);
  }
  return { rest, global };
}

function whenOf(word: string | undefined): GlobalOptions['color'] {
  const when = WHEN.find((each) => each === word);
  if (when) return when;
  throw new CommandError('invalid-option', `--color needs auto, always or never, not "${word ?? ''}"`);
}
