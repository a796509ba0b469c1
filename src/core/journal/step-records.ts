import type { RecordedRequest } from './records.ts';
import { isDone } from './call-end.ts';
import type { EventOf, JournalEvent } from './events.ts';

/** A file that a run wrote: its size before that, and how the run left it. */
type WrittenFile = Readonly<{ sizeBefore: number; after: EventOf<'file'>['after'] | undefined }>;

/** What a run has recorded of steps that send nothing: waits, addresses and callbacks, files. */
export class StepRecords {
  private readonly waits = new Set<string>();
  private readonly listened = new Map<string, EventOf<'listening'>>();
  private readonly addresses = new Map<string, EventOf<'listening'>>();
  private readonly called = new Map<string, RecordedRequest>();
  private readonly taken = new Map<string, RecordedRequest>();
  /** Files that responses were saved to, by the steps that did. */
  private readonly savings = new Map<string, EventOf<'file'>>();
  private readonly files = new Map<string, WrittenFile>();

  add(event: JournalEvent): void {
    switch (event.type) {
      case 'listening':
        this.listened.set(event.step, event);
        return;
      case 'called-back':
        this.called.set(event.step, event.request);
        return;
      case 'file':
        if (event.after.sha256 !== undefined) this.savings.set(event.step, event);
        this.written(event);
        return;
      case 'ended':
        this.ended(event);
        return;
      default:
    }
  }

  /** The first words on a file tell its size before; the last, how it was left, unless it is being written since. */
  private written({ path, before, after }: EventOf<'file'>): void {
    const known = this.files.get(path);
    const sizeBefore = known?.sizeBefore ?? before?.size ?? 0;
    this.files.set(path, { sizeBefore, after: before ? undefined : after });
  }

  private ended(event: EventOf<'ended'>): void {
    const { kind, key, step, outcome } = event;
    if (kind === 'wait' && outcome === 'passed') this.waits.add(key);
    const listening = kind === 'listen' ? this.listened.get(step) : undefined;
    if (listening) this.addresses.set(key, listening);
    const called = kind === 'receive' && isDone(event) ? this.called.get(step) : undefined;
    if (called) this.taken.set(key, called);
  }

  file(path: string): WrittenFile | undefined {
    return this.files.get(path);
  }

  /** The address that a step listened at, as its path and port. */
  listening(key: string): EventOf<'listening'> | undefined {
    return this.addresses.get(key);
  }

  /** The file that a call's response was saved to, as it was then. */
  saved(step: string): EventOf<'file'> | undefined {
    return this.savings.get(step);
  }

  /** The request that a step waited for and got. */
  received(key: string): RecordedRequest | undefined {
    return this.taken.get(key);
  }

  hasWaited(key: string): boolean {
    return this.waits.has(key);
  }
}
