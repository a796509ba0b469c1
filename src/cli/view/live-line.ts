/** Redraws at most so often. */
const EVERY_MS = 100;

/** A line at the bottom of a terminal that moves while the lines above it stay. */
export class LiveLine {
  private text = '';
  private isShown = false;
  private timer: NodeJS.Timeout | undefined;

  constructor(private readonly write: (text: string) => void) {}

  /** The line as it is now; it is drawn a moment later, with whatever has changed until then. */
  set(text: string): void {
    this.text = text;
    this.timer ??= setTimeout(() => {
      this.timer = undefined;
      this.draw();
    }, EVERY_MS).unref();
  }

  /** Writes lines above it. */
  above(text: string): void {
    this.clear();
    this.write(text);
    if (this.text !== '') this.draw();
  }

  /** Takes it away. */
  end(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    this.text = '';
    this.clear();
  }

  private draw(): void {
    this.write(`\r\u001b[2K${this.text}`);
    this.isShown = this.text !== '';
  }

  private clear(): void {
    if (this.isShown) this.write('\r\u001b[2K');
    this.isShown = false;
  }
}
