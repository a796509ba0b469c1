import type { At } from '../core/chain/endpoint-at.ts';
import path from 'node:path';
import {
  findChains,
  findProject,
  LOCAL_FILE,
  placeToWrite,
  PROJECT_FILE,
  projectOpener,
  projectReader,
  readNamedFile,
  readSourceFile,
  RECORD_FOLDER,
  SECRETS_FILE,
} from '../adapters/project-files.ts';
import { existsSync } from 'node:fs';
import { openSecrets } from '../adapters/secrets.ts';
import { readChain } from '../core/chain/chain-file.ts';
import { checkChain } from '../core/chain/check.ts';
import { checkProject, type ProjectSurroundings } from '../core/chain/check-project.ts';
import type { Chain } from '../core/chain/model.ts';
import { readProject, type Project } from '../core/chain/project-file.ts';
import { diagnosticAt, sorted, type Diagnostic, type SourceFile } from '../core/diagnostics/source.ts';
import { withoutConsequences } from '../core/diagnostics/consequences.ts';
import { nearest } from '../core/diagnostics/suggest.ts';
import { NO_CHAINS, usedChains, type UsedChains } from './used-chains.ts';
import { CommandError } from './command-error.ts';
import { FROM_DISK, type ProjectReading } from './project-reading.ts';
import { contractsIn } from './contracts.ts';

/** The project around the working folder; without one only absolute URLs can be sent to. */
export type Workspace = Readonly<{
  cwd: string;
  /** The project's folder; the working folder without a project. */
  folder: string;
  hasProject: boolean;
  project: Project | undefined;
  /** Where records of runs are. */
  recordFolder: string;
  diagnostics: readonly Diagnostic[];
  reading: ProjectReading;
}>;

export function openWorkspace(cwd: string, reading: ProjectReading = FROM_DISK): Workspace {
  const folder = findProject(cwd);
  if (folder === undefined) {
    return {
      cwd,
      folder: cwd,
      hasProject: false,
      project: undefined,
      recordFolder: path.join(cwd, RECORD_FOLDER),
      diagnostics: [],
      reading,
    };
  }
  const file = fileOrFault(path.join(folder, PROJECT_FILE), cwd, reading);
  const local = path.join(folder, LOCAL_FILE);
  const ofLocal = existsSync(local) ? fileOrFault(local, cwd, reading) : undefined;
  const { project, diagnostics } = readProject(file, ofLocal);
  const found = project ? [...diagnostics, ...checkProject(project, projectAround(folder, reading))] : diagnostics;
  return {
    cwd,
    folder,
    hasProject: true,
    project,
    recordFolder: path.join(folder, RECORD_FOLDER),
    diagnostics: sorted(found),
    reading,
  };
}

/** The same, for commands that make no sense without a project. */
export function openProject(cwd: string): Workspace {
  const workspace = openWorkspace(cwd);
  if (workspace.hasProject) return workspace;
  const advice = `Go to a folder with a ${PROJECT_FILE}, or see an example: batharon demo`;
  throw new CommandError('no-project', `There is no ${PROJECT_FILE} here or in a parent folder`, advice);
}

function fileOrFault(file: string, cwd: string, { readSource }: ProjectReading): SourceFile {
  const read = readSource(file, cwd);
  if (read.file) return read.file;
  const shown = path.relative(cwd, file) || file;
  switch (read.problem) {
    case 'file-not-found': {
      const advice = similarFile(file, cwd);
      throw new CommandError('file-not-found', `The file ${shown} does not exist`, advice);
    }
    default:
      throw new CommandError(
        read.problem,
        `${shown}: ${UNREADABLE[read.problem].message}`,
        UNREADABLE[read.problem].advice,
      );
  }
}

/** A file's place in the project, the same wherever one stands. */
export function inProject({ folder, cwd }: Pick<Workspace, 'folder' | 'cwd'>, file: string): string {
  return path.relative(folder, path.resolve(cwd, file)).split(path.sep).join('/');
}

/** What is wrong with a file that is there. */
const UNREADABLE = {
  'not-utf8': { message: 'This file is not UTF-8', advice: 'Save it as UTF-8.' },
  'not-a-file': { message: 'This is not a regular file', advice: 'Name a chain file.' },
  'file-too-big': { message: 'This file exceeds 4 MiB', advice: 'Put data into inputs and tables.' },
} as const;

/** A chain of the project whose name is close to what was asked for. */
function similarFile(file: string, cwd: string): string | undefined {
  const folder = findProject(cwd) ?? cwd;
  const chains = findChains(folder);
  const base = (each: string) => path.basename(each).replace(/\.chain\.ya?ml$|\.ya?ml$/, '');
  const same = chains.find((each) => base(each) === base(file));
  const near = same ?? chains.find((each) => base(each) === nearest(base(file), chains.map(base)));
  return near === undefined ? undefined : `Did you mean ${path.relative(cwd, near)}?`;
}

export type LoadedChain = Readonly<{
  chain: Chain | undefined;
  diagnostics: readonly Diagnostic[];
  /** The chains that it uses. */
  used: UsedChains;
}>;

/** A chain file, read and checked in its project, for a run at some deployments. */
export function loadChain(workspace: Workspace, file: string, at: At, accepts = false): LoadedChain {
  const full = path.resolve(workspace.cwd, file);
  const read = workspace.reading.readSource(full, workspace.cwd);
  if (read.file) return checkedChain(workspace, read.file, at, accepts);
  if (read.problem === 'file-not-found')
    return checkedChain(workspace, fileOrFault(full, workspace.cwd, workspace.reading), at, accepts);
  // One file that cannot be read keeps nothing back of what is wrong with the others.
  const at0 = { path: path.relative(workspace.cwd, full), text: '' };
  const problem = UNREADABLE[read.problem];
  const found = diagnosticAt(at0, { code: read.problem, range: [0, 0], ...problem });
  return { chain: undefined, diagnostics: [found], used: NO_CHAINS };
}

export function checkedChain(
  workspace: Workspace,
  file: SourceFile,
  at: At,
  accepts = false,
  namedFiles: readonly string[] = [],
): LoadedChain {
  const { chain, diagnostics } = readChain(file);
  if (!chain) return { chain, diagnostics, used: NO_CHAINS };
  const secretNamed = secretsOf(workspace.folder, workspace.reading);
  const check = (each: Chain) => {
    const around = rulesAround(workspace.folder, path.resolve(workspace.cwd, each.file.path), namedFiles, secretNamed);
    return checkChain(each, workspace.project, at, { ...around, accepts });
  };
  const own = check(chain);
  const used = usedChains(workspace, chain, at, check);
  const found = withoutConsequences([...diagnostics, ...own, ...used.diagnostics]);
  return { chain, diagnostics: sorted(found), used };
}

/** Where a chain file does not fit a description that its APIs are held to. */
export function contractMismatches(
  { folder, cwd, project }: Workspace,
  file: string,
  at: At,
  contractOf: ProjectSurroundings['contractOf'],
): readonly Diagnostic[] {
  const read = readSourceFile(path.resolve(cwd, file), cwd);
  const { chain } = read.file ? readChain(read.file) : { chain: undefined };
  if (!chain) return [];
  const around = { ...rulesAround(folder, path.resolve(cwd, file)), accepts: false, contractOf };
  return checkChain(chain, project, at, around).filter(({ code }) => code === 'contract-mismatch');
}

/** What the rules may look at around a file of the project. */
function rulesAround(
  folder: string,
  file: string,
  namedFiles: readonly string[] = [],
  secretNamed = secretsIn(folder),
) {
  const rules = { folder, chainFile: file, allowed: new Set(namedFiles) };
  return {
    secretNamed,
    contractOf: contractsIn(folder),
    readFile: projectReader(folder, file, rules.allowed),
    openFile: projectOpener(rules),
    unwritable: (name: string) => {
      const place = placeToWrite(name, rules);
      return 'message' in place ? place : undefined;
    },
  };
}

function projectAround(folder: string, reading: ProjectReading): ProjectSurroundings {
  const around = rulesAround(folder, path.join(folder, PROJECT_FILE), [], secretsOf(folder, reading));
  return { ...around, accepts: false, readNamedFile: (name) => readNamedFile(path.resolve(folder, name)) };
}

function secretsOf(folder: string, { knowsSecrets }: ProjectReading): (text: string) => string | undefined {
  return knowsSecrets ? secretsIn(folder) : () => undefined;
}

/** Finds the secrets of a project by their values, those aside that are words. */
function secretsIn(folder: string): (text: string) => string | undefined {
  let byValue: ReadonlyMap<string, string> | undefined;
  const read = () => {
    if (!existsSync(path.join(folder, SECRETS_FILE))) return new Map<string, string>();
    const store = openSecrets(folder, {});
    const known = store.all().filter(([, value]) => !isWord(value));
    return new Map(known.map(([name, value]) => [value, name]));
  };
  return (text) => (byValue ??= read()).get(text);
}

/** What anybody may write without meaning the secret: a word, a short text. */
function isWord(value: string): boolean {
  return value.length < 8 || /^(?:\p{L}+|\d+)$/u.test(value);
}
