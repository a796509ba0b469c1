import path from 'node:path';
import type { Connection, Diagnostic as EditorDiagnostic } from 'vscode-languageserver/node';
import type { Diagnostic } from '../../core/diagnostics/source.ts';
import { checkedChain } from '../../runner/workspace.ts';
import { uriOf } from '../buffers.ts';
import { kindOf, type Desk } from '../desk.ts';
import type { Feature } from '../feature.ts';
import type { ProjectView } from '../project-view.ts';

/** How long after the last key a file is checked, in milliseconds. */
const PAUSE_MS = 100;

export const diagnostics: Feature = {
  capabilities: {},
  register(connection, desk) {
    const checks = new Checks(connection, desk);
    desk.onChange((file) => checks.want(file));
  },
};

/** Checks files that were changed and those that use them, one at a time, when nothing is typed any more. */
class Checks {
  private readonly wanted = new Set<string>();
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly connection: Connection,
    private readonly desk: Desk,
  ) {}

  want(file: string): void {
    this.wanted.add(file);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.next(), PAUSE_MS);
  }

  /** Between two files what the editor asks is answered. */
  private next(): void {
    for (const file of this.wanted) {
      this.wanted.delete(file);
      this.check(file);
      break;
    }
    if (this.wanted.size > 0) this.timer = setTimeout(() => this.next(), 0);
  }

  private check(file: string): void {
    const project = this.desk.projectOf(file);
    const kind = kindOf(file);
    if (kind === 'project') {
      this.publish(file, project.workspace().diagnostics, project);
      for (const each of this.desk.buffers.all())
        if (kindOf(each.file) === 'chain' && this.desk.projectOf(each.file) === project)
          this.checkChain(each.file, project);
    } else if (kind === 'chain') {
      this.checkChain(file, project);
      for (const user of project.usersOf(file)) this.checkChain(user, project);
    }
  }

  private checkChain(file: string, project: ProjectView): void {
    const source = project.sourceOf(file);
    const found = source ? checkedChain(project.workspace(), source, project.at()).diagnostics : [];
    this.publish(file, found, project);
  }

  private publish(file: string, found: readonly Diagnostic[], { folder }: ProjectView): void {
    const own = found.filter((each) => path.resolve(folder, each.file.path) === file);
    const [first] = own;
    const lines = this.desk.linesOf(file, first?.file.text ?? '');
    const version = this.desk.buffers.at(file)?.version;
    void this.connection.sendDiagnostics({
      uri: uriOf(file),
      ...(version === undefined ? {} : { version }),
      diagnostics: own.map(({ range, level, code, message, advice, list = [] }): EditorDiagnostic => ({
        range: lines.rangeOf(range),
        severity: level === 'error' ? 1 : 2,
        code,
        source: 'batharon',
        message: [message, ...list, ...(advice === undefined ? [] : [advice])].join('\n'),
      })),
    });
  }
}
