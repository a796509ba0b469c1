import path from 'node:path';
import { existsSync } from 'node:fs';
import { openSecrets } from '../adapters/secrets.ts';
import type { Contract } from '../core/contract/contract.ts';
import { DescriptionFault } from '../core/contract/documents.ts';
import type { Operation } from '../core/contract/operation.ts';
import { didYouMean } from '../core/diagnostics/suggest.ts';
import { draftOfOperations } from '../core/draft/openapi.ts';
import { callName } from '../core/draft/operation-inputs.ts';
import { counted } from '../core/value/show.ts';
import { CommandError } from '../runner/command-error.ts';
import { contractsIn } from '../runner/contracts.ts';
import { openWorkspace, type Workspace } from '../runner/workspace.ts';
import { groundOf } from './draft-ground.ts';
import type { Io } from './io.ts';
import { apiName, apiOf } from './samples.ts';
import { operationLines } from './view/operations.ts';
import { paletteOf } from './view/palette.ts';
import { wrapped } from './view/text.ts';
import { writeDraft } from './write-draft.ts';

/** Whether a text is an API description: its first keys say so. */
export function isDescription(text: string): boolean {
  const head = text.slice(0, 4000);
  return /^\s*["']?(?:openapi|swagger)["']?\s*:/m.test(head) || /^\s*\{\s*"(?:openapi|swagger)"\s*:/.test(head);
}

/** The description in a file, by its name from the working folder. Throws `CommandError`. */
export function descriptionAt(file: string, { cwd, exit }: Pick<Io, 'cwd' | 'exit'>): Contract {
  if (!existsSync(path.resolve(cwd, file)))
    throw new CommandError('file-not-found', `The file ${file} does not exist`, 'Name an OpenAPI description.');
  const contract = contractsIn(cwd)(file);
  if (!('message' in contract)) {
    for (const { at, message } of contract.description.faults)
      exit.err(`note: ${contract.placeText(at)}: left out: ${message}\n`);
    return contract;
  }
  const { file: at, line, message, advice } = contract;
  throw new CommandError('invalid-contract', `${at}${line === undefined ? '' : `:${line}`}: ${message}`, advice);
}

/** Prints the operations of a description; of few, or with a word, what each needs and gives. */
export function listOperations(contract: Contract, word: string | undefined, io: Io): void {
  const { description } = contract;
  const palette = paletteOf(io.colors);
  const { operations, title, version, file } = description;
  const found = word === undefined ? operations : operations.filter((each) => mentions(each, word));
  if (found.length === 0) {
    const names = operations.flatMap(({ id, name }) => [id ?? name, name]);
    throw new CommandError('invalid-option', `No operation of ${file} mentions "${word}"`, didYouMean(word!, names));
  }
  const isWhole = found.length <= 5;
  io.exit.out(`${palette.strong(title)} ${version}   ${counted(found.length, 'operation')}\n\n`);
  const lines = operationLines(found, description, { isWhole, columns: io.columns, palette });
  io.exit.out(`${lines.join('\n').trimEnd()}\n`);
  const [first] = found;
  io.exit.out(`\nNext:\n  batharon draft ${file} ${first!.id ?? `"${first!.name}"`}\n`);
}

/** Explains an operation of a description that an API of the project is held to; false where the topic is none. */
export function showOperation(topic: string, io: Io): boolean {
  if (!/^[A-Za-z]+ \/|^[A-Za-z_]\w*$/.test(topic)) return false;
  const { project, folder } = openWorkspace(io.cwd);
  const files = new Set(
    project?.apis.flatMap(({ endpoints }) => endpoints.flatMap((each) => each.contract?.file.text ?? [])),
  );
  for (const file of files) {
    const contract = contractsIn(folder)(file);
    const operation = 'message' in contract ? undefined : contract.description.operation(topic);
    if (!operation || 'message' in contract) continue;
    const palette = paletteOf(io.colors);
    const shown = operationLines([operation], contract.description, { isWhole: true, columns: io.columns, palette });
    const text = operation.description?.trim() ?? '';
    const about = text === '' ? [] : wrapped(text, Math.min(io.columns, 100) - 7).map((line) => `       ${line}`);
    const [head = '', ...rest] = shown;
    io.exit.out(`${[head, ...(about.length > 0 ? [...about, ''] : []), ...rest].join('\n').trimEnd()}\n`);
    io.exit.out(`${palette.quiet(`       ${contract.placeText(operation.at)}`)}\n`);
    return true;
  }
  return false;
}

function mentions({ name, at }: Operation, word: string): boolean {
  const wanted = word.toLowerCase();
  return name.toLowerCase().includes(wanted) || isIn(at.value, wanted, new Set());
}

/** Whether a word is in a name or text below a value; what aliases of YAML repeat is looked at once. */
function isIn(value: unknown, word: string, seen: Set<object>): boolean {
  if (typeof value !== 'object' || value === null) return String(value).toLowerCase().includes(word);
  if (seen.has(value)) return false;
  seen.add(value);
  return Object.entries(value).some(([key, each]) => key.toLowerCase().includes(word) || isIn(each, word, seen));
}

/** What the command line says of a draft of operations. */
export type DescribedOptions = Readonly<{
  api?: string;
  name?: string;
  into?: string;
  list?: string | true;
  url?: string;
}>;

/** Writes calls of operations, and the API where the project lacks it. */
export function draftDescribed(
  contract: Contract,
  names: readonly string[],
  options: DescribedOptions,
  workspace: Workspace,
  io: Io,
): void {
  const operations = names.map((name) => operationNamed(contract, name));
  const into = options.into ?? `chains/${options.name ?? callName(operations[0]!)}.chain.yaml`;
  try {
    const draft = draftOfOperations(contract, operations, operationsAround(contract, into, options, workspace, io));
    if ('message' in draft) throw new CommandError('invalid-target', draft.message, draft.advice);
    writeDraft(draft, into, workspace, io);
  } catch (error) {
    if (!(error instanceof DescriptionFault)) throw error;
    throw new CommandError('invalid-contract', `${contract.placeText(error.at)}: ${error.message}`, error.advice);
  }
}

/** What a draft of a description needs to know of the project and of the command line. */
export function operationsAround(
  { description }: Contract,
  into: string,
  options: DescribedOptions,
  workspace: Workspace,
  io: Io,
): Parameters<typeof draftOfOperations>[2] {
  const folder = workspace.hasProject ? workspace.folder : io.cwd;
  const file = path.relative(folder, path.resolve(io.cwd, description.file)).split(path.sep).join('/');
  const store = openSecrets(workspace.hasProject ? workspace.folder : undefined, io.environment);
  const server = options.url ?? description.servers.find(({ url }) => URL.canParse(url))?.url;
  return {
    ground: groundOf(workspace, into, options, io),
    known: knownApi(workspace, file, server),
    file,
    url: options.url,
    apiName: options.api ?? (server === undefined ? 'api' : apiName(server)),
    isKnownSecret: (name) => store.all().some(([known, value]) => known === name && value !== ''),
  };
}

/** The API that is held to a description already, else the one at its server. */
function knownApi(workspace: Workspace, file: string, server: string | undefined): string | undefined {
  const apis = workspace.project?.apis ?? [];
  const held = apis.find(({ endpoints }) => endpoints.some(({ contract }) => contract?.file.text === file));
  return held?.name ?? (server === undefined ? undefined : apiOf(workspace, server)?.api);
}

function operationNamed({ description, index }: Contract, name: string): Operation {
  const found =
    description.operation(name) ?? description.operation(name.replace(/^\S+/, (word) => word.toUpperCase()));
  if (found) return found;
  const ids = description.operations.flatMap(({ id }) => id ?? []);
  const [, method = '', target = ''] = /^([A-Za-z]+)\s+(\/.*)$/.exec(name) ?? [];
  const near = target === '' ? didYouMean(name, ids) : index.nearest(method.toUpperCase(), target);
  const meant = typeof near === 'object' ? `Did you mean "${near.name}"?` : near;
  const advice = meant ?? `To list its operations: batharon draft ${description.file} --list`;
  throw new CommandError('contract-mismatch', `"${name}" is no operation of ${description.file}`, advice);
}
