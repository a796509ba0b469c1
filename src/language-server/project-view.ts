import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { findChains, findProject, readSourceFile, RECORD_FOLDER, SECRETS_FILE } from '../adapters/project-files.ts';
import { readChain } from '../core/chain/chain-file.ts';
import { endpointsOf } from '../core/chain/endpoints.ts';
import type { Chain } from '../core/chain/model.ts';
import { secretOwners } from '../core/chain/secret-owners.ts';
import { stepsOf } from '../core/chain/steps/inside.ts';
import { ChainPieces } from '../core/editor/chain-pieces.ts';
import { symbolsOf, type Symbols } from '../core/editor/symbols.ts';
import type { FileSurroundings } from '../core/editor/surroundings.ts';
import type { SourceFile } from '../core/diagnostics/source.ts';
import { contractsIn } from '../runner/contracts.ts';
import { AS_WRITTEN, readAt } from '../runner/deployments.ts';
import { CommandError } from '../runner/command-error.ts';
import type { ProjectReading } from '../runner/project-reading.ts';
import { inProject, openWorkspace, type Workspace } from '../runner/workspace.ts';
import type { Buffers } from './buffers.ts';
import { kindOf } from './file-kind.ts';
import type { LastRun } from '../core/editor/recorded.ts';
import { LastRuns } from './last-runs.ts';

/** Files that are offered as names, at most. */
const MAX_FILES = 2000;

/** A chain file as it is now, with its model and names. */
export type ChainView = Readonly<{ file: string; chain: Chain; symbols: Symbols }>;

/** A project as the editor has it: what is open counts before what is on the disk. Paths are absolute. */
export class ProjectView {
  readonly lastRuns: LastRuns;
  private opened: Workspace | undefined;
  private readonly models = new Map<string, Readonly<{ text: string; chain: Chain | undefined }>>();
  private readonly views = new WeakMap<object, ChainView>();
  private readonly pieces = new Map<string, ChainPieces>();
  private chainList: readonly string[] | undefined;
  private fileList: readonly string[] | undefined;

  constructor(
    readonly folder: string,
    private readonly buffers: Buffers,
    private readonly environment: NodeJS.ProcessEnv,
    private readonly showsRecorded: () => boolean,
  ) {
    this.lastRuns = new LastRuns(path.join(folder, RECORD_FOLDER));
  }

  private readonly reading: ProjectReading = {
    knowsSecrets: false,
    readSource: (file, workingFolder) => {
      const buffer = this.buffers.at(file);
      if (!buffer) return readSourceFile(file, workingFolder);
      return { file: { path: path.relative(workingFolder, file) || path.basename(file), text: buffer.lines.text } };
    },
  };

  /** The project file as it is now; without one, or while it cannot be read, chains stand by themselves. */
  workspace(): Workspace {
    if (this.opened) return this.opened;
    try {
      this.opened = openWorkspace(this.folder, this.reading);
    } catch (error) {
      if (!(error instanceof CommandError)) throw error;
      const recordFolder = path.join(this.folder, RECORD_FOLDER);
      const { folder, reading } = this;
      this.opened = {
        cwd: folder,
        folder,
        hasProject: false,
        project: undefined,
        recordFolder,
        diagnostics: [],
        reading,
      };
    }
    return this.opened;
  }

  /** Where runs are if nobody says otherwise: `BATHARON_AT`, or as the project file has it. */
  at() {
    const { project } = this.workspace();
    try {
      return readAt(AS_WRITTEN, this.environment, project);
    } catch (error) {
      if (!(error instanceof CommandError)) throw error;
      return readAt(AS_WRITTEN, {}, project);
    }
  }

  /** Something changed: in the project file, in a chain, or in which files there are. */
  changed(file: string, isOnDisk: boolean): void {
    if (kindOf(file) !== 'chain') this.opened = undefined;
    if (isOnDisk) {
      this.chainList = undefined;
      this.fileList = undefined;
      this.opened = undefined;
    }
  }

  /** The chain files of the project. */
  chains(): readonly string[] {
    return (this.chainList ??= findChains(this.folder));
  }

  /** The text of a file as it is now, by its path in the project. */
  sourceOf(file: string): SourceFile | undefined {
    return this.reading.readSource(file, this.folder).file;
  }

  /** A chain file as it is now; nothing where it cannot be read. */
  chainAt(file: string): Chain | undefined {
    const source = this.sourceOf(file);
    if (!source) return undefined;
    const known = this.models.get(file);
    if (known?.text === source.text) return known.chain;
    const { chain } = readChain(source);
    this.models.set(file, { text: source.text, chain });
    return chain;
  }

  /** A chain file with its names, worked out once for each state of it. */
  viewOf(file: string): ChainView | undefined {
    const chain = this.chainAt(file);
    if (!chain) return undefined;
    let view = this.views.get(chain);
    if (!view) {
      const symbols = symbolsOf(chain, endpointsOf(this.workspace().project, this.at()));
      this.views.set(chain, (view = { file, chain, symbols }));
    }
    return view;
  }

  /** The chain files that use one as a step, for the choices of an input, or to sign in. */
  usersOf(file: string): readonly string[] {
    return this.chains().filter((each) => {
      const chain = each === file ? undefined : this.chainAt(each);
      const names = chain
        ? [
            ...stepsOf(chain).flatMap((step) => (step.kind === 'chain' ? [step.file.text] : [])),
            ...chain.inputs.flatMap(({ choicesFrom }) => choicesFrom?.chain.text ?? []),
          ]
        : [];
      return names.some((name) => path.resolve(path.dirname(each), name) === file);
    });
  }

  /** Those that use it through others too. */
  private allUsersOf(file: string): readonly string[] {
    const found = new Set<string>();
    const add = (each: string): void => {
      for (const user of this.usersOf(each)) if (!found.has(user)) add((found.add(user), user));
    };
    add(file);
    return [...found];
  }

  piecesOf(file: string): ChainPieces {
    let pieces = this.pieces.get(file);
    if (!pieces) this.pieces.set(file, (pieces = new ChainPieces()));
    return pieces;
  }

  forget(file: string): void {
    this.pieces.delete(file);
    this.models.delete(file);
  }

  /** What the core may know around a file. */
  around(file: string): FileSurroundings {
    const { project } = this.workspace();
    const folder = path.dirname(file);
    const relative = (each: string) => path.relative(folder, each).split(path.sep).join('/');
    return {
      project,
      endpointOf: endpointsOf(project, this.at()),
      contractOf: contractsIn(this.folder),
      secretNames: () => [...new Set([...secretOwners(project).keys(), ...namesInSecrets(this.folder)])].sort(),
      chainFiles: () =>
        this.chains()
          .filter((each) => each !== file)
          .map(relative),
      files: () =>
        this.files()
          .filter((each) => each !== file)
          .map(relative),
      chainAt: (name) => this.chainAt(path.resolve(folder, name)),
      lastRun: () => (this.showsRecorded() ? this.lastRunOf(file) : undefined),
    };
  }

  private lastRunOf(file: string): LastRun | undefined {
    const name = (each: string) => inProject({ folder: this.folder, cwd: this.folder }, each);
    return this.lastRuns.of(name(file), () => this.allUsersOf(file).map(name));
  }

  private files(): readonly string[] {
    return (this.fileList ??= filesBelow(this.folder).slice(0, MAX_FILES));
  }
}

/** The folder of the project around a file, or the file's own. */
export function projectFolderOf(file: string): string {
  return findProject(path.dirname(file)) ?? path.dirname(file);
}

/** Files that a chain may name: none of the project's own, and no hidden ones. */
function filesBelow(folder: string): readonly string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const full = path.join(folder, entry.name);
    if (entry.name.startsWith('.') || entry.name === 'node_modules') return [];
    if (entry.isDirectory()) return filesBelow(full);
    return entry.name === SECRETS_FILE || kindOf(entry.name) ? [] : [full];
  });
}

/** The names in `secrets.env`; the values behind them are passed over. */
function namesInSecrets(folder: string): readonly string[] {
  const file = path.join(folder, SECRETS_FILE);
  if (!existsSync(file)) return [];
  return [...readFileSync(file, 'utf8').matchAll(/^\s*(?:export\s+)?([A-Za-z_]\w*)\s*=/gm)].map(([, name]) => name!);
}
