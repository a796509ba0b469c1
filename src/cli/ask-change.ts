import type { AskChange, ChangeAnswer } from '../core/engine/asking.ts';
import type { Io } from './io.ts';
import type { Palette } from './view/palette.ts';
import { requestLines } from './view/preview.ts';

const ANSWERS: Readonly<Record<string, ChangeAnswer>> = {
  'send it': 'send',
  'skip it': 'skip',
  'send it and all others of this call': 'all',
  'stop here': 'stop',
};

/** `--ask`: shows a request that changes something as `preview` does, and asks. One question at a time. */
export function askChange(palette: Palette, io: Io): AskChange {
  let last: Promise<unknown> = Promise.resolve();
  // Those that wait to be asked about meanwhile are answered by it too.
  const all = new Set<string>();
  let isStopped = false;
  return (call, shown) => {
    const answer = last.then(async (): Promise<ChangeAnswer> => {
      if (isStopped || all.has(call)) return isStopped ? 'stop' : 'send';
      const lines = requestLines(shown, palette).map((line) => (line === '' ? '' : `  ${line}`));
      io.exit.err(`\n${palette.strong(call)}\n${lines.join('\n')}\n\n`);
      const { ask } = await import('../adapters/prompts.ts');
      const question = { message: `What should happen to ${call}?`, choices: Object.keys(ANSWERS), secret: false };
      const answered = ANSWERS[await ask({ ...question, problem: () => undefined }, io.exit)]!;
      if (answered === 'all') all.add(call);
      isStopped = answered === 'stop';
      return answered;
    });
    last = answer.catch(() => undefined);
    return answer;
  };
}
