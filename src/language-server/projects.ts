import { Buffers } from './buffers.ts';
import { projectFolderOf, ProjectView } from './project-view.ts';

/** The files that are open and the projects around them, as one thread knows them. */
export class Projects {
  readonly buffers = new Buffers();
  /** Whether recorded values are shown: the editor's setting `recordedValues`. */
  showsRecorded = true;
  private readonly views = new Map<string, ProjectView>();

  constructor(private readonly environment: NodeJS.ProcessEnv) {}

  of(file: string): ProjectView {
    const folder = projectFolderOf(file);
    let project = this.views.get(folder);
    if (!project) {
      project = new ProjectView(folder, this.buffers, this.environment, () => this.showsRecorded);
      this.views.set(folder, project);
    }
    return project;
  }

  /** A file was changed, in the editor or on the disk. */
  changed(file: string, isOnDisk: boolean): void {
    if (!isRecord(file)) this.of(file).changed(file, isOnDisk);
  }

  closed(file: string): void {
    this.buffers.close(file);
    this.of(file).forget(file);
  }
}

/** Whether a file is what a run recorded. */
export function isRecord(file: string): boolean {
  return /[\\/]\.batharon[\\/]/.test(file);
}
