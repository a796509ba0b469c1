import path from 'node:path';
import { PROJECT_FILE, LOCAL_FILE } from '../adapters/project-files.ts';
import { Buffers, type OpenFile } from './buffers.ts';
import { projectFolderOf, ProjectView } from './project-view.ts';
import { Lines } from './positions.ts';

/** What commands show of a chain: the requests of a preview, the last exchange of a call. */
export type ShownTexts = Readonly<{
  preview(folder: string, file: string, call: string): Promise<string>;
  lastExchange(folder: string, file: string, call: string): string;
}>;

/** What lies open in the editor, and the projects around it. */
export class Desk {
  readonly buffers = new Buffers();
  /** Whether recorded values are shown: the editor's setting `recordedValues`. */
  showsRecorded = true;
  private readonly projects = new Map<string, ProjectView>();
  private readonly listeners: ((file: string) => void)[] = [];

  constructor(
    private readonly environment: NodeJS.ProcessEnv,
    readonly texts: ShownTexts,
  ) {}

  projectOf(file: string): ProjectView {
    const folder = projectFolderOf(file);
    let project = this.projects.get(folder);
    if (!project) {
      project = new ProjectView(folder, this.buffers, this.environment, () => this.showsRecorded);
      this.projects.set(folder, project);
    }
    return project;
  }

  /** An open file with its project; nothing for a file that is not one of ours. */
  opened(uri: string): Readonly<{ buffer: OpenFile; project: ProjectView; kind: FileKind }> | undefined {
    const buffer = this.buffers.of(uri);
    const kind = buffer && kindOf(buffer.file);
    return buffer && kind && { buffer, project: this.projectOf(buffer.file), kind };
  }

  /** The lines of a file as it is now, open or not. */
  linesOf(file: string, text: string): Lines {
    return this.buffers.at(file)?.lines ?? new Lines(text, this.buffers.encoding);
  }

  /** Calls back for each file that is to be looked at anew. */
  onChange(listener: (file: string) => void): void {
    this.listeners.push(listener);
  }

  /** A file was changed, in the editor or on the disk. */
  changed(file: string, isOnDisk: boolean): void {
    if (/[\\/]\.batharon[\\/]/.test(file)) {
      for (const project of this.projects.values()) project.lastRuns.refresh();
      return;
    }
    this.projectOf(file).changed(file, isOnDisk);
    if (kindOf(file)) for (const listener of this.listeners) listener(file);
    // A schema, a table or a description may be what an open chain reads.
    else for (const { file: open } of this.buffers.all()) for (const listener of this.listeners) listener(open);
  }

  closed(file: string): void {
    this.projectOf(file).forget(file);
  }
}

type FileKind = 'chain' | 'project';

/** What a file is by its name. */
export function kindOf(file: string): FileKind | undefined {
  if (/\.chain\.ya?ml$/.test(file)) return 'chain';
  return [PROJECT_FILE, LOCAL_FILE].includes(path.basename(file)) ? 'project' : undefined;
}
