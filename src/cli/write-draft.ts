import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { PROJECT_FILE, readSourceFile, SECRETS_FILE } from '../adapters/project-files.ts';
import { withKeep, withStep } from '../core/chain/insert.ts';
import type { SourceFile } from '../core/diagnostics/source.ts';
import type { Draft } from '../core/draft/draft.ts';
import { shellQuoted } from '../core/draft/shell-words.ts';
import { yamlScalar } from '../core/yaml/quoting.ts';
import { stepText } from '../core/draft/write-call.ts';
import { edited, withLines } from '../core/yaml/edit.ts';
import { readYaml } from '../core/yaml/read.ts';
import { entryOf } from '../core/yaml/tree.ts';
import { CommandError } from '../runner/command-error.ts';
import type { Workspace } from '../runner/workspace.ts';
import type { Io } from './io.ts';
import { dotenvValue, editorLine, writeProject } from './new-project.ts';

/** Writes what samples became: the project where there is none, APIs into it, secrets, the chain. Says what was written. */
export function writeDraft(draft: Draft, into: string, workspace: Workspace, io: Io): void {
  const full = path.resolve(io.cwd, into);
  const chain = chainText(draft, full, workspace, io);
  if (!workspace.hasProject) {
    writeProject('.', { apis: draft.apis, secrets: [], chain: undefined }, io);
  } else if (draft.apis.length > 0) io.exit.rewriteFile(projectFile(workspace), withApis(draft, workspace));
  const added = writeSecrets(draft, workspace.hasProject ? workspace.folder : io.cwd, io);
  if (existsSync(full)) io.exit.rewriteFile(full, chain);
  else io.exit.writeFile(full, chain, 0o644);
  for (const line of draft.report) io.exit.out(`${line}\n`);
  for (const { name, url } of workspace.hasProject ? draft.apis : [])
    io.exit.out(`api: ${name} (${url}) is in ${PROJECT_FILE}\n`);
  const names = draft.calls.map(({ name }) => name);
  io.exit.out(
    `\n${names.length === 1 ? 'Wrote the call' : `Wrote ${names.length} calls,`} ${shownNames(names)} into ${into}\n`,
  );
  for (const name of added) io.exit.out(`${name} has no value yet: batharon secrets set ${name}\n`);
  const inputs = draft.inputs.filter((input) => input.default === undefined).map(({ name }) => ` --input ${name}=...`);
  io.exit.out(`\nNext:\n  batharon run ${shellQuoted(into)}${inputs.join('')}\n`);
}

function shownNames(names: readonly string[]): string {
  return names.length <= 8 ? names.join(', ') : `${names.slice(0, 8).join(', ')}, ...`;
}

/** The chain with the calls: a new file, or the one that is there with steps, inputs and keeps added. */
function chainText(draft: Draft, full: string, { folder, hasProject }: Workspace, io: Io): string {
  if (!existsSync(full)) return newChain(draft, full, hasProject ? folder : io.cwd);
  const { file } = readSourceFile(full, io.cwd);
  if (!file) throw new CommandError('not-utf8', `The file ${full} cannot be read`);
  const kept = draft.keeps.reduce(
    (each, { name, call, expression }) => changed(each, withKeep(each, call, name, expression)),
    file,
  );
  const withInputs = inputsInto(kept, draft);
  return draft.calls.reduce((each, { lines }) => changed(each, withStep(each, lines)), withInputs).text;
}

type Change = string | Readonly<{ message: string; advice?: string }>;

function changed(file: SourceFile, text: Change): SourceFile {
  if (typeof text !== 'string') throw new CommandError('wrong-type', text.message, text.advice);
  return { ...file, text };
}

function inputLines({ inputs }: Draft): readonly string[] {
  return inputs.map(({ name, type, default: said, choices = [], about }) => {
    const isText = type === 'string' || type === 'date';
    const value = (text: string) => (isText ? JSON.stringify(text) : text);
    const more = [
      ...(said === undefined ? [] : [`default: ${value(said)}`]),
      ...(choices.length === 0 ? [] : [`choices: [${choices.map(value).join(', ')}]`]),
      ...(about === undefined ? [] : [`about: ${JSON.stringify(about)}`]),
    ];
    return more.length === 0 ? `${name}: ${type}` : `${name}: { type: ${type}, ${more.join(', ')} }`;
  });
}

function newChain(draft: Draft, full: string, folder: string): string {
  const inputs = inputLines(draft).map((line) => `  ${line}\n`);
  const schema = path
    .relative(path.dirname(full), path.join(folder, 'schemas/chain.schema.json'))
    .split(path.sep)
    .join('/');
  const head = [
    editorLine(schema),
    draft.about === undefined ? '' : `about: ${yamlScalar(draft.about)}\n`,
    draft.api === undefined ? '' : `api: ${draft.api}\n`,
    inputs.length === 0 ? '' : `inputs:\n${inputs.join('')}`,
  ].join('');
  const outputs = (draft.outputs ?? []).map(([name, expression]) => `  ${name}: ${yamlScalar(expression)}\n`);
  const steps = draft.calls.map(({ lines }) => stepText(lines)).join('');
  return `${head}\nsteps:\n${steps}${outputs.length === 0 ? '' : `\noutputs:\n${outputs.join('')}`}`;
}

function inputsInto(file: SourceFile, draft: Draft): SourceFile {
  const lines = inputLines(draft);
  if (lines.length === 0) return file;
  const tree = readYaml({ file, report: () => {} });
  const inputs = tree && entryOf(tree, 'inputs')?.value;
  if (inputs?.kind === 'map' && inputs.entries.length > 0 && !inputs.flow)
    return { ...file, text: edited(file, withLines(file, inputs, lines)) };
  if (inputs)
    throw new CommandError(
      'wrong-type',
      `The inputs of ${file.path} are written in braces`,
      'Write them in lines first.',
    );
  const at = /^steps:/m.exec(file.text)?.index ?? 0;
  const text = `${file.text.slice(0, at)}inputs:\n${lines.map((line) => `  ${line}\n`).join('')}\n${file.text.slice(at)}`;
  return { ...file, text };
}

function projectFile({ folder }: Workspace): string {
  return path.join(folder, PROJECT_FILE);
}

/** The project file with further APIs, everything else in it as it was. */
function withApis({ apis }: Draft, { project }: Workspace): string {
  const { file } = project!;
  const tree = readYaml({ file, report: () => {} });
  const all = tree && entryOf(tree, 'apis')?.value;
  if (all?.kind !== 'map' || all.entries.length === 0 || all.flow)
    throw new CommandError(
      'wrong-type',
      `The APIs of ${file.path} are not in lines`,
      'Write each API in lines of its own.',
    );
  const lines = apis.flatMap(({ name, lines: own }) => [`${name}:`, ...own.map((line) => `  ${line}`)]);
  return edited(file, withLines(file, all, lines));
}

/** Puts new secrets into `secrets.env`; gives the names of those whose values are not known. */
function writeSecrets({ secrets }: Draft, folder: string, io: Io): readonly string[] {
  const file = path.join(folder, SECRETS_FILE);
  const before = existsSync(file) ? readFileSync(file, 'utf8') : '';
  const known = secrets.filter(({ value }) => value !== undefined);
  const lines = known.map(({ name, value }) => `${name}=${dotenvValue(value!)}\n`).join('');
  for (const { name, value } of known) io.exit.masker.add(name, value!);
  if (lines !== '' || before === '') io.exit.writeSecrets(file, `${before.replace(/([^\n])$/, '$1\n')}${lines}`);
  return secrets.filter(({ value }) => value === undefined).map(({ name }) => name);
}
