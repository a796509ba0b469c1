import { headerOf, type Header, type ResponseHead } from '../../http/message.ts';
import { BoundedSink } from '../../http/sinks.ts';
import type { SavingFile } from '../../ports.ts';

/**
 * A body that goes to a file, over all tries of its request: where a transfer broke off, the rest is asked for (RFC 9110
 * section 14.2), on condition that it is the rest of the same (section 13.1.5).
 */
export class Transfer {
  readonly sink: BoundedSink;
  private readonly validator: string | undefined;

  constructor(
    readonly file: SavingFile,
    maxBytes: number,
    head: ResponseHead,
  ) {
    this.sink = new BoundedSink(file, maxBytes);
    this.validator = validatorOf(head);
  }

  /** What asks for the rest; none where nothing came, or nothing says that the rest would be of the same. */
  get askingForRest(): readonly Header[] {
    if (this.validator === undefined || this.sink.size === 0) return [];
    return [
      ['Range', `bytes=${this.sink.size}-`],
      ['If-Range', this.validator],
    ];
  }

  /** Whether a partial response begins where what came ends (RFC 9110 section 14.4). */
  isContinuedBy({ headers }: ResponseHead): boolean {
    const first = /^bytes (\d+)-\d+\/(?:\d+|\*)$/.exec(headerOf(headers, 'content-range') ?? '')?.[1];
    return first === String(this.sink.size) && headerOf(headers, 'content-encoding') === undefined;
  }
}

/** A strong entity tag of a body whose bytes are counted as they are saved; servers without ranges may say so. */
function validatorOf({ status, headers }: ResponseHead): string | undefined {
  const tag = headerOf(headers, 'etag');
  const isPlain = headerOf(headers, 'content-encoding') === undefined;
  const refusesRanges = headerOf(headers, 'accept-ranges')?.toLowerCase() === 'none';
  return status === 200 && isPlain && !refusesRanges && tag?.startsWith('"') ? tag : undefined;
}
