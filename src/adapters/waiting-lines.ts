/**
 * Lines that may wait for those that come next, so that they go out in one write: at the latest when the process has nothing
 * else to do. Once something could not be written nothing more is, for a line behind half a line would spoil both; whoever
 * appends next is told.
 */
export class WaitingLines {
  private waiting = '';
  private isDue = false;
  private fault: unknown;

  constructor(private readonly write: (lines: string) => void) {}

  append(lines: string, mayWait: boolean): void {
    this.check();
    this.waiting += lines;
    if (!mayWait) this.flush();
    else if (!this.isDue) {
      this.isDue = true;
      setImmediate(() => this.flushQuietly());
    }
  }

  flush(): void {
    const lines = this.waiting;
    this.waiting = '';
    if (lines !== '') this.guarded(() => this.write(lines));
  }

  /** Does what must not follow a failure, and remembers its own. */
  guarded<T>(work: () => T): T {
    this.check();
    try {
      return work();
    } catch (error) {
      this.fail(error);
      throw error;
    }
  }

  fail(error: unknown): void {
    this.fault ??= error;
  }

  private check(): void {
    if (this.fault !== undefined) throw this.fault;
  }

  private flushQuietly(): void {
    this.isDue = false;
    try {
      this.flush();
    } catch {
      // It is remembered.
    }
  }
}
