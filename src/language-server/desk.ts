import type { OpenFile } from './buffers.ts';
import { Checker } from './checker.ts';
import { kindOf, type FileKind } from './file-kind.ts';
import { Lines } from './positions.ts';
import type { ProjectView } from './project-view.ts';
import { isRecord, Projects } from './projects.ts';

/** What commands show of a chain: the requests of a preview, the exchange of a call in a run. */
export type ShownTexts = Readonly<{
  preview(folder: string, file: string, call: string): Promise<string>;
  exchange(folder: string, run: string, call: string): string;
}>;

/** What lies open in the editor, the projects around it, and who checks it. */
export class Desk {
  readonly projects: Projects;
  readonly checker = new Checker();
  private readonly listeners: ((file: string) => void)[] = [];

  constructor(
    environment: NodeJS.ProcessEnv,
    readonly texts: ShownTexts,
  ) {
    this.projects = new Projects(environment);
  }

  /** An open file with its project; nothing for a file that is not one of ours. */
  opened(uri: string): Readonly<{ buffer: OpenFile; project: ProjectView; kind: FileKind }> | undefined {
    const buffer = this.projects.buffers.of(uri);
    const kind = buffer && kindOf(buffer.file);
    return buffer && kind && { buffer, project: this.projects.of(buffer.file), kind };
  }

  /** The lines of a file as it is now, open or not. */
  linesOf(file: string): Lines {
    const { buffers } = this.projects;
    return buffers.at(file)?.lines ?? new Lines(this.projects.of(file).sourceOf(file)?.text ?? '', buffers.encoding);
  }

  /** Calls back for each file that is to be looked at anew. */
  onChange(listener: (file: string) => void): void {
    this.listeners.push(listener);
  }

  /** A file has another text in the editor. */
  typed({ file, lines: { text } }: OpenFile): void {
    this.projects.changed(file, false);
    this.checker.tell({ kind: 'text', file, text });
    this.tell(file);
  }

  /** A file was changed on the disk. */
  changed(file: string): void {
    this.projects.changed(file, true);
    if (isRecord(file)) return;
    this.checker.tell({ kind: 'changed', file });
    // A schema, a table or a description may be what an open chain reads.
    for (const each of kindOf(file) ? [file] : this.projects.buffers.all().map((open) => open.file)) this.tell(each);
  }

  closed(file: string): void {
    this.projects.closed(file);
    this.checker.tell({ kind: 'closed', file });
  }

  private tell(file: string): void {
    if (kindOf(file)) for (const listener of this.listeners) listener(file);
  }
}
