import { confirm, input, password, search, select } from '@inquirer/prompts';
import { Writable } from 'node:stream';
import { Interrupted } from '../core/engine/asking.ts';
import type { MaskedOutput } from './masked-output.ts';

/** A question: what is asked, and what is wrong with an answer, if anything. */
export type Question = Readonly<{
  message: string;
  /** What is chosen from: answers, and what is read for each. */
  choices: readonly (string | Readonly<{ value: string; name: string }>)[] | undefined;
  /** Whether the answer is not to be seen. */
  secret: boolean;
  problem(answer: string): string | undefined;
}>;

/** What a prompt writes leaves by the one way out, on standard error: standard output may be data. */
function outputTo(exit: MaskedOutput): NodeJS.WritableStream {
  return new Writable({
    write: (chunk: Buffer | string, _encoding, done) => {
      exit.err(String(chunk));
      done();
    },
  });
}

/** Choices from which one is selected; more are narrowed by typing. */
const MOST_SELECTED = 10;

/** Asks until the answer has no problem. */
export async function ask({ message, choices, secret, problem }: Question, exit: MaskedOutput): Promise<string> {
  const output = outputTo(exit);
  const validate = (answer: string) => problem(answer) ?? true;
  return interruptible(() => {
    if (choices) {
      const named = choices.map((each) => (typeof each === 'string' ? { value: each, name: each } : each));
      if (named.length <= MOST_SELECTED) return select({ message, choices: named }, { output });
      const fitting = (term = '') => named.filter(({ name }) => name.toLowerCase().includes(term.toLowerCase()));
      return search({ message, source: (term) => fitting(term) }, { output });
    }
    return secret ? password({ message, validate }, { output }) : input({ message, validate }, { output });
  });
}

/** Ctrl-C at a question is the wish to end, as it is at any other time. */
async function interruptible<T>(answer: () => Promise<T>): Promise<T> {
  try {
    return await answer();
  } catch (error) {
    if ((error as Error).name !== 'ExitPromptError') throw error;
    process.emit('SIGINT');
    throw new Interrupted();
  }
}

/** A question for yes or no; no is what Enter means. */
export function askYesNo(message: string, exit: MaskedOutput): Promise<boolean> {
  return interruptible(() => confirm({ message, default: false }, { output: outputTo(exit) }));
}
