/** Redraws at most so often. */
const EVERY_MS = 100;

/** A line at the bottom of a terminal that moves while the lines above it stay. */
export class LiveLine {
  private make: (() => string) | undefined;
  private isShown = false;
  private timer: NodeJS.Timeout | undefined;

  constructor(private readonly write: (text: string) => void) {}

  /** What makes the line as it is now; it is asked when the line is drawn, a moment later. */
  set(make: () => string): void {
    this.make = make;
    this.timer ??= setTimeout(() => {
      this.timer = undefined;
      this.draw();
    }, EVERY_MS).unref();
  }

  /** Writes lines above it. */
  above(text: string): void {
    this.clear();
    this.write(text);
    if (this.make) this.draw();
  }

  /** Takes it away. */
  end(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    this.make = undefined;
    this.clear();
  }

  private draw(): void {
    const text = this.make?.() ?? '';
    this.write(`\r\u001b[2K${text}`);
    this.isShown = text !== '';
  }

  private clear(): void {
    if (this.isShown) this.write('\r\u001b[2K');
    this.isShown = false;
  }
}
