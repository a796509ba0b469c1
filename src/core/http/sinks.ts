import type { Value } from '../value/value.ts';
import { EventReader } from './event-stream.ts';
import type { BodySink, SinkState } from './message.ts';

/** Hands each event of a stream on as it arrives, and keeps what came as text. */
export class EventSink implements BodySink {
  readonly events: Value[] = [];
  text = '';
  private readonly decoder = new TextDecoder();
  private readonly reader = new EventReader();

  /** `isEnough` is asked after each event. */
  constructor(
    readonly isEnough: (events: readonly Value[]) => boolean,
    readonly endsAfterMs: number,
  ) {}

  write(chunk: Uint8Array): 'more' | 'enough' {
    const piece = this.decoder.decode(chunk, { stream: true });
    this.text += piece;
    for (const event of this.reader.push(piece)) {
      this.events.push(event);
      if (this.isEnough(this.events)) return 'enough';
    }
    return 'more';
  }
}

/** A sink that takes at most so many bytes. */
export class BoundedSink implements BodySink {
  /** What it took so far. */
  size = 0;

  constructor(
    private readonly sink: BodySink,
    readonly maxBytes: number,
  ) {}

  get endsAfterMs(): number | undefined {
    return this.sink.endsAfterMs;
  }

  write(chunk: Uint8Array): SinkState | Promise<SinkState> {
    this.size += chunk.length;
    return this.size > this.maxBytes ? 'too-big' : this.sink.write(chunk);
  }
}
