/**
 * Whether something of a scope was done anew. What only reads is then sent again behind it, since what it reads may have
 * changed; what changes something and was done stays done.
 */
export class ReexecutionFlag {
  private is = false;
  private anew = false;

  constructor(private readonly around?: ReexecutionFlag) {}

  mark(): void {
    this.is = true;
  }

  /** What gave secrets or cookies was asked again: nothing follows of it, but that values may be others. */
  madeAnew(): void {
    this.anew = true;
  }

  /** Whether all values of the scope are those of the record. */
  get isAsRecorded(): boolean {
    return !this.is && !this.anew && (this.around?.isAsRecorded ?? true);
  }

  get isRedone(): boolean {
    return this.is || (this.around?.isRedone ?? false);
  }
}
