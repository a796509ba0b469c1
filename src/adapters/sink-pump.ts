import type { Dispatcher } from 'undici';
import { Readable, type Transform } from 'node:stream';
import { createBrotliDecompress, createGunzip, createInflate } from 'node:zlib';
import type { BodySink, SinkState } from '../core/http/message.ts';
import { collectYoung } from './compiler.ts';

/** Bytes after which the pieces that came are freed. */
const COLLECTED_EVERY = 4 * 1024 * 1024;

/** What became of a body that went into a sink. */
export type Pumped =
  | Readonly<{ outcome: 'complete' | 'enough' | 'too-big' }>
  | Readonly<{ outcome: 'damaged' | 'unwritten'; message: string }>;

/** Takes a body from the connection as fast as its sink takes it, undoing content codings on the way. */
export class SinkPump {
  private readonly source: Readable;
  readonly done: Promise<Pumped>;

  constructor(
    private readonly sink: BodySink,
    controller: Dispatcher.DispatchController,
    coding: string | undefined,
  ) {
    this.source = new Readable({ read: () => controller.resume(), highWaterMark: 256 * 1024 });
    this.done = this.run(decoders(coding));
    this.pushed = (chunk) => {
      // The connection waits while the sink is behind.
      if (!this.source.push(chunk)) controller.pause();
    };
  }

  readonly pushed: (chunk: Uint8Array) => void;

  ended(): void {
    this.source.push(null);
  }

  /** The connection is gone. */
  cancel(): void {
    this.source.destroy();
  }

  /** What the disk refuses is no damage of the body. */
  private async taken(chunk: Uint8Array): Promise<SinkState | Extract<Pumped, { message: string }>> {
    try {
      return await this.sink.write(chunk);
    } catch (error) {
      return { outcome: 'unwritten', message: `The file cannot be written: ${(error as Error).message}` };
    }
  }

  private async run(transforms: readonly Transform[] | undefined): Promise<Pumped> {
    if (!transforms) return { outcome: 'damaged', message: 'The encoding of the body is not supported' };
    let stream: Readable = this.source;
    for (const transform of transforms) {
      stream.on('error', (error) => transform.destroy(error));
      stream = stream.pipe(transform);
    }
    try {
      let passed = 0;
      for await (const chunk of stream) {
        const outcome = await this.taken(chunk as Uint8Array);
        passed += (chunk as Uint8Array).length;
        if (passed > COLLECTED_EVERY) {
          passed = 0;
          collectYoung();
        }
        if (outcome !== 'more') return typeof outcome === 'string' ? { outcome } : outcome;
      }
      return { outcome: 'complete' };
    } catch (error) {
      return { outcome: 'damaged', message: (error as Error).message };
    }
  }
}

const CODINGS: Readonly<Record<string, () => Transform>> = {
  gzip: () => createGunzip(),
  'x-gzip': () => createGunzip(),
  deflate: () => createInflate(),
  br: () => createBrotliDecompress(),
};

/** What undoes content codings, last applied first (RFC 9110 section 8.4). */
function decoders(header: string | undefined): readonly Transform[] | undefined {
  const codings = (header ?? '')
    .split(',')
    .map((each) => each.trim().toLowerCase())
    .filter((each) => each !== '' && each !== 'identity');
  if (codings.length > 3 || codings.some((each) => !CODINGS[each])) return undefined;
  return codings.reverse().map((each) => CODINGS[each]!());
}
