import type { Io } from './io.ts';

/** One of a few answers; nothing where that is what the answer stands for. */
export async function askOne<T extends string | undefined>(
  message: string,
  answers: Readonly<Record<string, T>>,
  io: Io,
): Promise<T> {
  const { ask } = await import('../adapters/prompts.ts');
  const choices = Object.keys(answers);
  const answer = await ask({ message, choices, secret: false, problem: () => undefined }, io.exit);
  return answers[answer]!;
}
