import { readFileSync, statSync } from 'node:fs';
import path from 'node:path';
import { parse } from 'dotenv';
import { isCommon } from '../core/masking/common.ts';
import { commandOutput } from './secret-command.ts';
import { findChains, PROJECT_FILE, SECRETS_FILE } from './project-files.ts';

export type SecretStore = Readonly<{
  find(name: string): string | undefined;
  /** What gives a secret that is found nowhere else when it is first needed; throws `ValueUnavailable`. */
  later(name: string): (() => string) | undefined;
  /** Every name in `secrets.env`, with its value there and with the one that is in force. */
  all(): readonly (readonly [name: string, value: string])[];
  /** Whether a name is in `secrets.env`, and not only in the environment. */
  isInFile(name: string): boolean;
  /** Whether a value would be found where it is not meant, and so is masked only where it stands by itself. */
  isCommon(value: string): boolean;
  /** Where a secret is, in words; never its value. */
  placeOf(name: string): string | undefined;
  /** Where secrets were looked for, in words. */
  places: readonly string[];
  hasFile: boolean;
  /** Whether others than the owner may read `secrets.env`. */
  readableByOthers: boolean;
}>;

/** The words of the commands that print secrets, by secret. */
type SecretCommands = ReadonlyMap<string, readonly string[]>;

/** Secrets from the environment (`NAME`, or the file that `NAME_FILE` names), then from `secrets.env` beside the project file, then from commands. */
export function openSecrets(
  projectFolder: string | undefined,
  environment: NodeJS.ProcessEnv,
  commands: SecretCommands = new Map(),
): SecretStore {
  const file = projectFolder === undefined ? undefined : path.join(projectFolder, SECRETS_FILE);
  const stats = file === undefined ? undefined : statSync(file, { throwIfNoEntry: false });
  const inFile = stats ? parse(readFileSync(file!, 'utf8')) : {};
  const find = (name: string) => environment[name] ?? fromFile(environment[`${name}_FILE`]) ?? own(inFile, name);
  const later = new Map(
    [...commands].map(([name, words]) => [name, once(() => commandOutput(name, words, projectFolder, environment))]),
  );
  return {
    find,
    later: (name) => (find(name) === undefined ? later.get(name) : undefined),
    all: () =>
      Object.keys(inFile).flatMap((name) => [inFile[name]!, find(name)!].map((value) => [name, value] as const)),
    isCommon: (value) => isCommonIn(projectFolder, value),
    isInFile: (name) => own(inFile, name) !== undefined,
    placeOf: (name) =>
      environment[name] !== undefined
        ? 'the environment'
        : fromFile(environment[`${name}_FILE`]) !== undefined
          ? `the file of ${name}_FILE`
          : own(inFile, name) !== undefined
            ? SECRETS_FILE
            : commands.has(name)
              ? `the output of ${commands.get(name)![0]}`
              : undefined,
    places: ['the environment', ...(file === undefined ? [] : [SECRETS_FILE])],
    hasFile: stats !== undefined,
    readableByOthers: stats !== undefined && process.platform !== 'win32' && (stats.mode & 0o077) !== 0,
  };
}

/** What a command gives, or why it gives nothing, is found out once. */
function once(make: () => string): () => string {
  let made: Readonly<{ value: string }> | Readonly<{ error: unknown }> | undefined;
  return () => {
    try {
      made ??= { value: make() };
    } catch (error) {
      made = { error };
    }
    if ('error' in made) throw made.error;
    return made.value;
  };
}

const judged = new Map<string, boolean>();

/** Whether a value is common in a project: its files are gone through once for a value, however often it is asked. */
function isCommonIn(folder: string | undefined, value: string): boolean {
  const key = `${folder ?? ''}\n${value}`;
  let is = judged.get(key);
  if (is === undefined) judged.set(key, (is = isCommon(value, () => textsOf(folder))));
  return is;
}

/** The texts of a project: its own file, and its chains. */
function* textsOf(folder: string | undefined): Iterable<string> {
  if (folder === undefined) return;
  for (const file of [path.join(folder, PROJECT_FILE), ...findChains(folder)])
    if (statSync(file, { throwIfNoEntry: false })?.isFile()) yield readFileSync(file, 'utf8');
}

function fromFile(file: string | undefined): string | undefined {
  if (file === undefined) return undefined;
  try {
    // Files of secrets end in a line break that is no part of the secret.
    return readFileSync(file, 'utf8').replace(/\r?\n$/, '');
  } catch {
    return undefined;
  }
}

function own(values: Readonly<Record<string, string>>, name: string): string | undefined {
  return Object.hasOwn(values, name) ? values[name] : undefined;
}
