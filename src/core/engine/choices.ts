import { choicesIn, type Choice } from '../chain/choices.ts';
import type { InputDefinition } from '../chain/model.ts';
import { showValue } from '../value/show.ts';
import { evaluateOutputs } from './chain-outputs.ts';
import { runToEnd } from './chain-end.ts';
import { openRun, type RunRequest } from './run-chain.ts';

/** What a chain gave to choose from, or why it gave nothing of use. */
type GivenChoices = Readonly<{ choices: readonly Choice[] }> | Readonly<{ message: string }>;

/** Runs the chain that gives the choices of an input; its requests are recorded as being for that. */
export async function giveChoices(request: RunRequest, { name, choicesFrom }: InputDefinition): Promise<GivenChoices> {
  const context = { ...openRun(request), purpose: 'choices' as const, keyPrefix: `choices:${name}/` };
  const { exit } = await runToEnd(context, 'q');
  const failed = context.failed.at(-1);
  const { file } = request.chain;
  if (exit !== 0) {
    const why = failed ? `: ${failed.step}: ${failed.reason}` : '';
    return { message: `The chain ${file.path} failed, which provides the choices of "${name}"${why}` };
  }
  const given = evaluateOutputs(context, 'passed').real.get(choicesFrom!.name.text);
  const choices = choicesIn(given);
  if (choices) return { choices };
  const message = `The output ${choicesFrom!.name.text} of the chain ${file.path} is ${showValue(given)}; choices are an array of strings, of numbers, or of objects with value and label`;
  return { message };
}
