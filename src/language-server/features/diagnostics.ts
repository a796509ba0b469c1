import type { Connection } from 'vscode-languageserver/node';
import { uriOf } from '../buffers.ts';
import type { Checked } from '../check-worker.ts';
import type { Desk } from '../desk.ts';
import type { Feature } from '../feature.ts';

/** How long after a key a file is checked when no other follows, in milliseconds. */
const PAUSE_MS = 60;

/** What is wrong with files that were changed and those that use them. */
export const diagnostics: Feature = {
  capabilities: {},
  register(connection, desk) {
    const checks = new Checks(connection, desk);
    desk.onChange((file) => checks.want(file));
  },
};

/** Checks one file at a time, when nothing is typed any more. */
class Checks {
  private readonly wanted = new Set<string>();
  private timer: NodeJS.Timeout | undefined;
  private isBusy = false;

  constructor(
    private readonly connection: Connection,
    private readonly desk: Desk,
  ) {}

  want(file: string): void {
    this.wanted.add(file);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.work(), PAUSE_MS);
  }

  private async work(): Promise<void> {
    if (this.isBusy) return;
    this.isBusy = true;
    for (const file of this.wanted) {
      this.wanted.delete(file);
      const version = this.versionOf(file);
      const files = await this.desk.checker.check(file);
      // What was typed meanwhile is checked next; places of before would be wrong.
      if (this.versionOf(file) === version) files.forEach((each) => this.publish(each));
      else this.wanted.add(file);
    }
    this.isBusy = false;
  }

  private versionOf(file: string): number | undefined {
    return this.desk.projects.buffers.at(file)?.version;
  }

  private publish({ file, problems }: Checked['files'][number]): void {
    const lines = this.desk.linesOf(file);
    const version = this.versionOf(file);
    void this.connection.sendDiagnostics({
      uri: uriOf(file),
      ...(version === undefined ? {} : { version }),
      diagnostics: problems.map(({ range, level, code, text }) => ({
        range: lines.rangeOf(range),
        severity: level === 'error' ? 1 : 2,
        code,
        source: 'batharon',
        message: text,
      })),
    });
  }
}
