import type { LinesFile } from '../ports.ts';
import { CsvFault } from '../value/csv.ts';
import { ListFault, ListFinder } from '../value/json-list-at.ts';
import { rowsIn, TableFault, type TableKind } from '../value/rows-in.ts';
import { ListBuilder } from '../value/spilled-list.ts';
import type { Items } from '../value/value.ts';
import { DecodeFault, decodePieces, type DecodeProblem } from './charset.ts';
import type { BodySink, SinkState } from './message.ts';

/** Bytes of a body up to which it is held whole, as any other. */
const MAX_HELD_BYTES = 4 * 1024 * 1024;

/** What a list is read from: a body of a kind, in which it stands at a place. */
export type ListForm = Readonly<{ kind: TableKind; path: readonly (string | number)[]; charset: string | undefined }>;

/** What became of a body: held, since it is short; a list in lines; or what is wrong with it. */
export type ListRead =
  Readonly<{ bytes: Uint8Array }> | Readonly<{ list: Items }> | Readonly<{ problem: DecodeProblem }>;

/** Takes a body that is a list, or holds one, and puts what is too long to hold into lines as it arrives. */
export class ListSink implements BodySink {
  private readonly chunks: Uint8Array[] = [];
  private size = 0;
  private channel: Channel | undefined;
  private reading: Promise<ListRead> | undefined;
  private hasFailed = false;

  constructor(
    private readonly form: ListForm,
    private readonly open: () => LinesFile,
  ) {}

  write(chunk: Uint8Array): SinkState | Promise<SinkState> {
    this.size += chunk.length;
    if (this.channel) return this.passOn(this.channel, chunk);
    this.chunks.push(chunk);
    return this.size > MAX_HELD_BYTES ? this.begin() : 'more';
  }

  private async begin(): Promise<SinkState> {
    this.channel = new Channel();
    this.reading = this.read(this.channel);
    // It is told when all has come.
    this.reading.catch(() => {});
    for (const chunk of this.chunks.splice(0)) await this.channel.put(chunk);
    return this.state;
  }

  private async passOn(channel: Channel, chunk: Uint8Array): Promise<SinkState> {
    await channel.put(chunk);
    return this.state;
  }

  /** What cannot be read need not be received to its end. */
  private get state(): SinkState {
    return this.hasFailed ? 'enough' : 'more';
  }

  private async read(channel: Channel): Promise<ListRead> {
    const { kind, path, charset } = this.form;
    const builder = new ListBuilder(this.open, undefined, 0);
    try {
      const texts = decodePieces(channel, charset);
      const rows = rowsIn(kind === 'json' && path.length > 0 ? listAt(texts, path) : texts, kind, {});
      for await (const piece of rows) for (const row of piece) builder.add(row);
      return { list: builder.finish() };
    } catch (error) {
      this.hasFailed = true;
      builder.finish();
      return { problem: problemOf(error, kind) };
    } finally {
      channel.close();
    }
  }

  /** All of it has come. */
  async finish(): Promise<ListRead> {
    if (!this.channel) return { bytes: joined(this.chunks, this.size) };
    this.channel.end();
    return this.reading!;
  }
}

/** The text of the list at a place of a JSON text, both in pieces. */
async function* listAt(texts: AsyncIterable<string>, path: readonly (string | number)[]): AsyncGenerator<string> {
  const finder = new ListFinder(path);
  for await (const text of texts) {
    const list = finder.add(text);
    if (list !== '') yield list;
  }
  finder.end();
  if (!finder.hasFound) throw new ListFault('it has no array there');
}

const FORMS: Readonly<Record<TableKind, string>> = { json: 'JSON', ndjson: 'NDJSON', csv: 'CSV' };

function problemOf(error: unknown, kind: TableKind): DecodeProblem {
  if (error instanceof DecodeFault) return error.problem;
  const isOfBody = error instanceof TableFault || error instanceof ListFault || error instanceof CsvFault;
  if (!isOfBody) throw error;
  return { code: 'not-decodable', message: `The body cannot be read as ${FORMS[kind]}: ${error.message}` };
}

function joined(chunks: readonly Uint8Array[], size: number): Uint8Array {
  if (chunks.length === 1) return chunks[0]!;
  const bytes = new Uint8Array(size);
  let at = 0;
  for (const chunk of chunks) {
    bytes.set(chunk, at);
    at += chunk.length;
  }
  return bytes;
}

/** Hands pieces over one by one: who puts one waits until it was taken. */
class Channel implements AsyncIterable<Uint8Array> {
  private piece: Uint8Array | undefined;
  private isEnded = false;
  private wakeReader = (): void => {};
  private wakeWriter = (): void => {};

  put(piece: Uint8Array): Promise<void> {
    if (this.isEnded) return Promise.resolve();
    this.piece = piece;
    this.wakeReader();
    return new Promise((resolve) => (this.wakeWriter = resolve));
  }

  /** Nothing more is put. */
  end(): void {
    this.isEnded = true;
    this.wakeReader();
  }

  /** Nothing more is taken. */
  close(): void {
    this.isEnded = true;
    this.wakeWriter();
  }

  async *[Symbol.asyncIterator](): AsyncGenerator<Uint8Array> {
    for (;;) {
      while (this.piece === undefined && !this.isEnded)
        await new Promise<void>((resolve) => (this.wakeReader = resolve));
      const { piece } = this;
      if (piece === undefined) return;
      this.piece = undefined;
      yield piece;
      this.wakeWriter();
    }
  }
}
