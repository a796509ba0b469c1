import { Worker } from 'node:worker_threads';
import type { Checked, FoundProblem, ToChecker } from './check-worker.ts';

/** Megabytes in which values are made that are needed for a moment only: a check makes many. */
const YOUNG_MB = 64;

/** The thread that checks, as the one that answers the editor sees it. */
export class Checker {
  private readonly worker: Worker;
  private readonly waiting = new Map<number, (files: Checked['files']) => void>();
  private readonly known = new Map<string, readonly FoundProblem[]>();
  private last = 0;

  constructor() {
    // The program is one file, which this is a part of.
    const code = `require(${JSON.stringify(__filename)}).serveChecks()`;
    this.worker = new Worker(code, { eval: true, resourceLimits: { maxYoungGenerationSizeMb: YOUNG_MB } });
    this.worker.on('message', ({ id, files }: Checked) => {
      for (const { file, problems } of files) this.known.set(file, problems);
      this.waiting.get(id)?.(files);
      this.waiting.delete(id);
    });
  }

  tell(message: ToChecker): void {
    this.worker.postMessage(message);
  }

  /** What is wrong with a file and with those that use it, as they are now. */
  check(file: string): Promise<Checked['files']> {
    const id = ++this.last;
    this.tell({ kind: 'check', id, file });
    return new Promise((resolve) => this.waiting.set(id, resolve));
  }

  /** What the last check found in a file. */
  problemsOf(file: string): readonly FoundProblem[] {
    return this.known.get(file) ?? [];
  }

  async end(): Promise<void> {
    await this.worker.terminate();
  }
}
