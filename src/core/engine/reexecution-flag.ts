/**
 * Whether something of a scope was done anew. What only reads is then sent again behind it, since what it reads may have
 * changed; what changes something and was done stays done.
 */
export class ReexecutionFlag {
  private is = false;

  constructor(private readonly around?: ReexecutionFlag) {}

  mark(): void {
    this.is = true;
  }

  get isRedone(): boolean {
    return this.is || (this.around?.isRedone ?? false);
  }
}
