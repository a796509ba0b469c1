import { onAbort } from '../abort.ts';

/** So many permits for what is done at the same time, given in the order in which they are asked for. */
export class Semaphore {
  private taken = 0;
  private readonly waiting: (() => void)[] = [];

  constructor(private readonly count: number) {}

  /** Whether there is one at once. */
  tryTake(): boolean {
    if (this.taken >= this.count) return false;
    this.taken++;
    return true;
  }

  /** Resolves with whether there is one: not when the signal is aborted first. */
  take(signal: AbortSignal): Promise<boolean> {
    if (this.tryTake()) return Promise.resolve(true);
    return new Promise((resolve) => {
      if (signal.aborted) return resolve(false);
      const stay = onAbort(signal, () => {
        this.waiting.splice(this.waiting.indexOf(got), 1);
        resolve(false);
      });
      const got = () => {
        stay();
        resolve(true);
      };
      this.waiting.push(got);
    });
  }

  give(): void {
    const next = this.waiting.shift();
    if (next) next();
    else this.taken--;
  }

  get inUse(): number {
    return this.taken;
  }
}
