import { createReadStream, existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { readSourceFile } from '../adapters/project-files.ts';
import { givenOnCommandLine, type Given } from '../core/chain/inputs.ts';
import type { Chain, InputDefinition } from '../core/chain/model.ts';
import type { TableSource } from '../core/chain/tables.ts';
import { readValues } from '../core/chain/values-file.ts';
import { looseSource, type Diagnostic } from '../core/diagnostics/source.ts';
import { utf8Text } from '../core/value/utf8.ts';
import type { Value } from '../core/value/value.ts';
import type { Caller } from './caller.ts';
import { CommandError } from './command-error.ts';

/** What was given for the inputs of a chain. */
export type InputOptions = Readonly<{
  /** `NAME=VALUE`, as the command line has them. */
  input: readonly string[];
  inputsFrom?: string;
  /** Values by name, as a program has them. */
  values?: Readonly<Record<string, Value>>;
}>;

type GivenInputs = Readonly<{
  given: Map<string, Given>;
  /** Files that were named, as absolute paths: they may be read wherever they are. */
  files: readonly string[];
  diagnostics: readonly Diagnostic[];
}>;

/** What is given for the inputs of a chain: by a record, in a file, on the command line, by a program. The later wins. */
export async function givenInputs(
  chain: Chain,
  options: InputOptions,
  caller: Caller,
  recorded: ReadonlyMap<string, Given>,
): Promise<GivenInputs> {
  const given = new Map([...recorded].filter(([name]) => chain.inputs.some((input) => input.name === name)));
  const ofFile = options.inputsFrom === undefined ? undefined : valuesIn(options.inputsFrom, caller);
  for (const { name, value, source } of ofFile?.values ?? []) given.set(name, { value, source });
  for (const each of options.input) {
    const [name, one] = await givenAs(each, chain, caller);
    given.set(name, one);
  }
  for (const [name, value] of Object.entries(options.values ?? {}))
    given.set(name, await givenByProgram(name, value, chain, caller));
  const files = namedFiles(chain, given, caller);
  return { given, files, diagnostics: ofFile?.diagnostics ?? [] };
}

function valuesIn(file: string, { cwd }: Caller) {
  const read = readSourceFile(path.resolve(cwd, file), cwd);
  if (!read.file) throw new CommandError(read.problem, `The file ${file} cannot be read`);
  return readValues(read.file);
}

/** `NAME=VALUE` of the command line. */
async function givenAs(said: string, chain: Chain, caller: Caller): Promise<readonly [string, Given]> {
  const split = said.indexOf('=');
  if (split <= 0)
    throw new CommandError(
      'invalid-option',
      `--input needs NAME=VALUE, not "${said}"`,
      'Example: --input day=2026-05-23.',
    );
  const [name, written] = [said.slice(0, split), said.slice(split + 1)];
  const input = inputOf(chain, name);
  if (input?.type === 'table') {
    const { source } = givenOnCommandLine(name, written);
    return [name, { table: tableOf(input, written, caller), source }];
  }
  return [name, givenOnCommandLine(name, await textOf(input, written, caller))];
}

/** A value of a program. A text for what is a file names it; any other text is the value itself. */
async function givenByProgram(name: string, value: Value, chain: Chain, caller: Caller): Promise<Given> {
  const type = inputOf(chain, name)?.type;
  if (typeof value === 'string' && (type === 'file' || type === 'table'))
    return (await givenAs(`${name}=${value}`, chain, caller))[1];
  return { value, source: looseSource('inputs', name) };
}

function inputOf(chain: Chain, name: string): InputDefinition | undefined {
  return chain.inputs.find((one) => one.name === name);
}

/** The files that inputs name, found from where one stands. Throws `CommandError` for one that is not there. */
function namedFiles(chain: Chain, given: Map<string, Given>, { cwd }: Caller): readonly string[] {
  const files: string[] = [];
  for (const { name } of chain.inputs.filter(({ type }) => type === 'file')) {
    const from = given.get(name);
    if (!from || !('text' in from)) continue;
    const file = path.resolve(cwd, from.text);
    if (!existsSync(file))
      throw new CommandError('file-not-found', `The file ${from.text} for the input "${name}" does not exist`);
    given.set(name, { ...from, text: file });
    files.push(file);
  }
  return files;
}

/** Types whose value may stand in a file: `@FILE`, or `@-` for standard input. */
const FROM_FILES: ReadonlySet<string> = new Set(['string', 'json', 'secret']);

async function textOf(input: InputDefinition | undefined, written: string, caller: Caller): Promise<string> {
  if (!input || !FROM_FILES.has(input.type) || !written.startsWith('@')) return written;
  if (written.startsWith('@@')) return written.slice(1);
  const name = written.slice(1);
  if (name === '-') return trimmed(input, await caller.readInput());
  let bytes: Uint8Array;
  try {
    bytes = readFileSync(path.resolve(caller.cwd, name));
  } catch {
    const advice = 'A leading @ names a file; write @@ for the character itself.';
    throw new CommandError('file-not-found', `The file ${name} does not exist`, advice);
  }
  const text = utf8Text(bytes);
  if (text === undefined) throw new CommandError('not-utf8', `The file ${name} is not UTF-8`, 'Save it as UTF-8.');
  return trimmed(input, text);
}

/** A table: `@FILE`, or `@-` for standard input. */
function tableOf(input: InputDefinition, written: string, caller: Caller): TableSource {
  const name = written.replace(/^@/, '');
  if (name === '-') return { name, chunks: () => caller.inputChunks() };
  const file = path.resolve(caller.cwd, name);
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
