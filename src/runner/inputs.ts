import { givenInputs, type InputOptions } from './given-inputs.ts';
import type { Question } from '../adapters/prompts.ts';
import { givenOnCommandLine, missingInputs, resolveInputs, type Given } from '../core/chain/inputs.ts';
import type { Choice } from '../core/chain/choices.ts';
import type { Chain, InputDefinition } from '../core/chain/model.ts';
import type { OpenLines } from '../core/ports.ts';
import { inputTypes } from '../core/chain/input-types.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
import { inputHost, type RunHost } from '../core/engine/host.ts';
import type { Maybe, Value } from '../core/value/value.ts';
import { showValue } from '../core/value/show.ts';
import type { ChoicesOfChains } from './choices.ts';
import type { Caller } from './caller.ts';
import { runHost, type HostOptions } from './run-host.ts';
import type { SecretValues } from './secret-values.ts';
import type { Workspace } from './workspace.ts';

/** The inputs of a chain, none where something of it is wrong, and what its expressions may ask for. */
type CommandInputs = Readonly<{
  inputs: ReadonlyMap<string, Maybe> | undefined;
  host: RunHost;
  diagnostics: readonly Diagnostic[];
}>;

/** Where inputs come from beside the command line, and where long tables go. */
type InputSources = Readonly<{
  /** Values of a run that is gone on with. */
  recorded?: ReadonlyMap<string, Given> | undefined;
  openLines?: OpenLines;
  /** Choices that other chains give; without it they are not asked for. */
  choices?: ChoicesOfChains | undefined;
}>;

/** Reads what a command was given for a chain (`undefined`: one with errors, for which nothing is asked) and resolves it. */
export async function commandInputs(
  chain: Chain | undefined,
  file: string,
  secrets: SecretValues,
  options: InputOptions & HostOptions,
  workspace: Workspace,
  caller: Caller,
  { recorded = new Map(), openLines, choices }: InputSources = {},
): Promise<CommandInputs> {
  const given = chain && (await givenInputs(chain, options, caller, recorded));
  const host = runHost(workspace, file, options, caller.exit, given?.files, openLines);
  const choicesOf = choices && ((input: InputDefinition) => choices.of(input, host));
  if (chain && given) await askMissing(chain, given.given, caller, choicesOf);
  if (!chain || !given) return { inputs: undefined, host, diagnostics: [] };
  // What is secret is known before anything is written down.
  for (const [name, value] of Object.entries(secrets)) caller.exit.masker.add(name, value);
  const { inputs, diagnostics } = await resolveInputs(chain, given.given, secrets, {
    ...inputHost(host, 'inputs'),
    ...(choicesOf ? { choicesOf } : {}),
  });
  return { inputs, host, diagnostics: [...given.diagnostics, ...diagnostics] };
}

async function askMissing(
  chain: Chain,
  given: Map<string, Given>,
  caller: Caller,
  choicesOf: ((input: InputDefinition) => Promise<readonly Choice[]>) | undefined,
): Promise<void> {
  const missing = missingInputs(chain, given);
  if (missing.length === 0 || !caller.mayAsk) return;
  const { ask } = await import('../adapters/prompts.ts');
  for (const input of missing) {
    const choices = input.choicesFrom && (await choicesOf?.(input));
    given.set(input.name, givenOnCommandLine(input.name, await ask(questionFor(input, choices), caller.exit)));
  }
}

function questionFor({ name, type, about, choices }: InputDefinition, given: readonly Choice[] | undefined): Question {
  const { what, parse } = inputTypes[type];
  return {
    message: about === undefined ? name : `${name} (${about})`,
    choices: given?.map(({ value, label }) => ({ value: written(value), name: label })) ?? choices?.map(written),
    secret: type === 'secret',
    problem: (answer) => (parse(answer, 'UTC') === undefined ? `Enter ${what}` : undefined),
  };
}

const written = (value: Value): string => (typeof value === 'string' ? value : showValue(value));
