/** Drawn at most so often; while nothing happens, each so many times that it could be. */
const EVERY_MS = 100;
const IDLE_TURNS = 10;

/** To the beginning of the line, and nothing from there on. */
const CLEAR = '\r\u001b[J';
const HIDE_CURSOR = '\u001b[?25l';
const SHOW_CURSOR = '\u001b[?25h';

/**
 * Lines at the bottom of a terminal that move while those above stay. Between two drawings the cursor stands at the
 * beginning of the first of them: however a window that has become narrower or wider breaks them, erasing from there on
 * takes all of them away, and nothing above.
 */
export class LiveBlock {
  private make: (() => readonly string[]) | undefined;
  private isShown = false;
  private isWriting = false;
  private isChanged = false;
  private idle = 0;
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly write: (text: string) => void,
    /** Calls back before anybody writes to the terminal. */
    beforeWriting: (listener: () => void) => void,
  ) {
    beforeWriting(() => {
      if (!this.isWriting) this.clear();
    });
  }

  /** What makes the lines as they are now: it is asked when they are drawn, a moment later, and now and then. */
  set(make: () => readonly string[]): void {
    this.make = make;
    this.isChanged = true;
    this.timer ??= setInterval(() => this.turn(), EVERY_MS).unref();
  }

  /** Writes lines above them. */
  above(text: string): void {
    this.put(text, this.isShown ? this.make!() : []);
  }

  /** Takes them away until they are drawn again. */
  clear(): void {
    if (this.isShown) this.put('', []);
  }

  /** Takes them away for good. */
  end(): void {
    clearInterval(this.timer);
    this.timer = undefined;
    this.make = undefined;
    this.clear();
  }

  private turn(): void {
    if (!this.isChanged && ++this.idle < IDLE_TURNS) return;
    this.isChanged = false;
    this.idle = 0;
    const lines = this.make!();
    if (lines.length > 0) this.put('', lines);
    else this.clear();
  }

  private put(text: string, lines: readonly string[]): void {
    const up = lines.length > 1 ? `\u001b[${lines.length - 1}A` : '';
    const block = lines.length > 0 ? `${HIDE_CURSOR}${lines.join('\n')}${up}\r` : '';
    const before = this.isShown ? `${CLEAR}${block === '' ? SHOW_CURSOR : ''}` : '';
    this.isWriting = true;
    this.write(before + text + block);
    this.isWriting = false;
    this.isShown = block !== '';
  }
}
