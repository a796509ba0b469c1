import { confirm, input, password, select } from '@inquirer/prompts';
import { Writable } from 'node:stream';
import type { Take } from '../core/chain/model.ts';
import { takeTypes } from '../core/chain/take-types.ts';
import { showValue } from '../core/value/show.ts';
import type { Exit } from './exit.ts';

/** What a prompt writes leaves by the one way out, on standard error: standard output may be data. */
function outputTo(exit: Exit): NodeJS.WritableStream {
  return new Writable({
    write: (chunk: Buffer | string, _encoding, done) => {
      exit.err(String(chunk));
      done();
    },
  });
}

/** Asks for one input, with what it is for; asks again until the answer is of its type. */
export async function askFor(take: Take, exit: Exit): Promise<string> {
  const output = outputTo(exit);
  const { what, parse } = takeTypes[take.type];
  const message = take.about === undefined ? take.name : `${take.name} (${take.about})`;
  if (take.choices) {
    const choices = take.choices.map((choice) => (typeof choice === 'string' ? choice : showValue(choice)));
    return select({ message, choices }, { output });
  }
  const validate = (text: string) => parse(text, 'UTC') !== undefined || `This takes ${what}`;
  if (take.type === 'secret') return password({ message, validate }, { output });
  return input({ message, validate }, { output });
}

/** A question for yes or no; no is what Enter means. */
export function askYesNo(message: string, exit: Exit): Promise<boolean> {
  return confirm({ message, default: false }, { output: outputTo(exit) });
}
