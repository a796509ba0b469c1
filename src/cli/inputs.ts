import { createReadStream, existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import type { Question } from '../adapters/prompts.ts';
import { readSourceFile } from '../adapters/project-files.ts';
import { givenOnCommandLine, missingInputs, resolveInputs, type Given } from '../core/chain/inputs.ts';
import type { Choice } from '../core/chain/choices.ts';
import type { Chain, InputDefinition } from '../core/chain/model.ts';
import type { TableSource } from '../core/chain/tables.ts';
import type { OpenLines } from '../core/ports.ts';
import { inputTypes } from '../core/chain/input-types.ts';
import { readValues } from '../core/chain/values-file.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
import { inputHost, type RunHost } from '../core/engine/host.ts';
import type { Maybe, Value } from '../core/value/value.ts';
import { showValue } from '../core/value/show.ts';
import type { ChoicesOfChains } from './choices.ts';
import type { Io } from './io.ts';
import { runHost, type HostOptions } from './run-host.ts';
import { utf8Text } from '../core/value/utf8.ts';
import { CommandError } from './command-error.ts';
import type { Workspace } from './workspace.ts';

export type InputOptions = Readonly<{ input: readonly string[]; inputsFrom?: string }>;

type GivenInputs = Readonly<{
  given: Map<string, Given>;
  /** Files that were named, as absolute paths: they may be read wherever they are. */
  files: readonly string[];
  diagnostics: readonly Diagnostic[];
}>;

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
  secrets: Readonly<Record<string, string>>,
  options: InputOptions & HostOptions,
  workspace: Workspace,
  io: Io,
  { recorded = new Map(), openLines, choices }: InputSources = {},
): Promise<CommandInputs> {
  const given = chain && (await givenInputs(chain, options, io, recorded));
  const host = runHost(workspace, file, options, io.exit, given?.files, openLines);
  const choicesOf = choices && ((input: InputDefinition) => choices.of(input, host));
  if (chain && given) await askMissing(chain, given.given, io, choicesOf);
  if (!chain || !given) return { inputs: undefined, host, diagnostics: [] };
  // What is secret is known before anything is written down.
  for (const [name, value] of Object.entries(secrets)) io.exit.masker.add(name, value);
  const { inputs, diagnostics } = await resolveInputs(chain, given.given, secrets, {
    ...inputHost(host, 'inputs'),
    ...(choicesOf ? { choicesOf } : {}),
  });
  return { inputs, host, diagnostics: [...given.diagnostics, ...diagnostics] };
}

/** What is given for the inputs of a chain: in a file, on the command line, and on a terminal what is still missing. */
async function givenInputs(
  chain: Chain,
  options: InputOptions,
  io: Io,
  recorded: ReadonlyMap<string, Given>,
): Promise<GivenInputs> {
  const given = new Map([...recorded].filter(([name]) => chain.inputs.some((input) => input.name === name)));
  const files: string[] = [];
  const diagnostics: Diagnostic[] = [];
  if (options.inputsFrom !== undefined) {
    const read = readSourceFile(path.resolve(io.cwd, options.inputsFrom), io.cwd);
    if (!read.file) throw new CommandError(read.problem, `The file ${options.inputsFrom} cannot be read`);
    const { values, diagnostics: found } = readValues(read.file);
    diagnostics.push(...found);
    for (const { name, value, source } of values) given.set(name, { value, source });
  }
  for (const each of options.input) {
    const split = each.indexOf('=');
    if (split <= 0) {
      throw new CommandError(
        'invalid-option',
        `--input needs NAME=VALUE, not "${each}"`,
        'Example: --input day=2026-05-23.',
      );
    }
    const name = each.slice(0, split);
    const input = chain.inputs.find((one) => one.name === name);
    if (input?.type === 'table') {
      const { source } = givenOnCommandLine(name, each.slice(split + 1));
      given.set(name, { table: tableOf(input, each.slice(split + 1), io), source });
      continue;
    }
    const text = await textOf(input, each.slice(split + 1), io);
    given.set(name, givenOnCommandLine(name, text));
  }
  for (const { name } of chain.inputs.filter(({ type }) => type === 'file')) {
    const from = given.get(name);
    if (!from || !('text' in from)) continue;
    const file = path.resolve(io.cwd, from.text);
    if (!existsSync(file))
      throw new CommandError('file-not-found', `The file ${from.text} for the input "${name}" does not exist`);
    given.set(name, { ...from, text: file });
    files.push(file);
  }
  return { given, files, diagnostics };
}

/** Types whose value may stand in a file: `@FILE`, or `@-` for standard input. */
const FROM_FILES: ReadonlySet<string> = new Set(['string', 'json', 'secret']);

async function textOf(input: InputDefinition | undefined, written: string, io: Io): Promise<string> {
  if (!input || !FROM_FILES.has(input.type) || !written.startsWith('@')) return written;
  if (written.startsWith('@@')) return written.slice(1);
  const name = written.slice(1);
  if (name === '-') return trimmed(input, await io.readInput());
  let bytes: Uint8Array;
  try {
    bytes = readFileSync(path.resolve(io.cwd, name));
  } catch {
    const advice = 'A leading @ names a file; write @@ for the character itself.';
    throw new CommandError('file-not-found', `The file ${name} does not exist`, advice);
  }
  const text = utf8Text(bytes);
  if (text === undefined) throw new CommandError('not-utf8', `The file ${name} is not UTF-8`, 'Save it as UTF-8.');
  return trimmed(input, text);
}

/** A table: `@FILE`, or `@-` for standard input. */
function tableOf(input: InputDefinition, written: string, io: Io): TableSource {
  const name = written.replace(/^@/, '');
  if (name === '-') return { name, chunks: () => io.inputChunks() };
  const file = path.resolve(io.cwd, name);
  if (!existsSync(file))
    throw new CommandError(
      'file-not-found',
      `The table ${name} does not exist`,
      `Example: --input ${input.name}=@rows.csv.`,
    );
  return { name, chunks: () => createReadStream(file, { highWaterMark: PIECE }) };
}

/** Bytes of a table that are read at a time. */
const PIECE = 256 * 1024;

/** A secret in a file ends with a line break that is no part of it. */
function trimmed({ type }: InputDefinition, text: string): string {
  return type === 'secret' ? text.replace(/\r?\n$/, '') : text;
}

async function askMissing(
  chain: Chain,
  given: Map<string, Given>,
  io: Io,
  choicesOf: ((input: InputDefinition) => Promise<readonly Choice[]>) | undefined,
): Promise<void> {
  const missing = missingInputs(chain, given);
  if (missing.length === 0 || !io.mayAsk) return;
  const { ask } = await import('../adapters/prompts.ts');
  for (const input of missing) {
    const choices = input.choicesFrom && (await choicesOf?.(input));
    given.set(input.name, givenOnCommandLine(input.name, await ask(questionFor(input, choices), io.exit)));
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
