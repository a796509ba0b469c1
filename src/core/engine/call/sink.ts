import type { BodyRef, ProblemRecord } from '../../journal/records.ts';
import { evaluate } from '../../expression/evaluate.ts';
import { headerOf, type BodySink, type HttpRequest, type HttpResponse, type ResponseHead } from '../../http/message.ts';
import { decodedAs, mediaTypeOf, type Decoded, type DecodedAs } from '../../http/decode.ts';
import { ListSink, type ListRead } from '../../http/list-sink.ts';
import { BoundedSink, EventSink } from '../../http/sinks.ts';
import { bodyWith, streamedListOf } from './streamed.ts';
import { plainTextOf } from '../../template/template.ts';
import { fillFileName } from '../../template/fill.ts';
import type { SavedFile } from '../../ports.ts';
import type { EventBody } from '../../journal/events.ts';
import { responseFrame } from '../frames.ts';
import { catchFillFault } from '../fill.ts';
import { judgeHead } from '../judge.ts';
import { fileExists, problemAt } from '../places.ts';
import type { Resolvers } from '../resolvers.ts';
import { ResponseView } from '../response-names.ts';
import type { CallSite } from './site.ts';
import type { Pair } from './build.ts';
import { Transfer } from './transfer.ts';

/** Events and milliseconds until listening stops, where the call does not say when. */
const AT_MOST = 1000;
/** Bytes of a body that goes to the disk as it arrives, where the call does not say. */
const MAX_ON_DISK_BYTES = 1024 * 1024 * 1024;
const WITHIN_MS = 5 * 60_000;

/** Where the body of a call goes as it arrives, when it is not held: a file, a reader of events, or lines of a list. */
export class CallSink {
  private transfer: Transfer | undefined;
  /** What the response under way is to the transfer. */
  private current: 'all' | 'rest' | 'unfit' | undefined;
  private events: EventSink | undefined;
  private saved: SavedFile | undefined;
  private list: Readonly<{ sink: ListSink; bounded: BoundedSink; as: DecodedAs }> | undefined;
  /** What came of the body, when it was to become a list. */
  private listRead: ListRead | undefined;
  /** Why the file cannot be begun. */
  problem: ProblemRecord | undefined;

  constructor(
    private readonly site: CallSite,
    private readonly resolvers: () => Resolvers,
  ) {}

  /** Decides at the headers: a file is only written for a response that is wanted. */
  readonly sinkFor = (head: ResponseHead): BodySink | undefined => {
    const { step } = this.site;
    const { type } = mediaTypeOf(headerOf(head.headers, 'content-type'));
    const { maxBodyBytes } = step;
    if (step.save) return this.save(head, maxBodyBytes ?? MAX_ON_DISK_BYTES);
    const isEvents = step.readAs === 'events' || (step.readAs === undefined && type === 'text/event-stream');
    if (isEvents || step.untilEvent) return this.listen(maxBodyBytes ?? this.site.context.run.maxBodyBytes);
    return this.listSink(head);
  };

  /** A list that a loop alone goes over goes to the disk, item by item, when it is long. */
  private listSink(head: ResponseHead): BodySink | undefined {
    const { step, context } = this.site;
    const { type, charset } = mediaTypeOf(headerOf(head.headers, 'content-type'));
    const as = step.readAs ?? decodedAs(type);
    const kept = streamedListOf(this.site, as);
    if (!kept || !this.wanted(head)) return undefined;
    const sink = new ListSink({ ...kept, charset }, () => context.runHost.openLines('response'));
    this.list = { sink, bounded: new BoundedSink(sink, step.maxBodyBytes ?? MAX_ON_DISK_BYTES), as };
    return this.list.bounded;
  }

  /** The request, for the rest alone where a part of the body came with a try before. */
  asking(pair: Pair): Pair {
    const { headers } = this.site.step.request;
    const isOwn = headers.some(({ name }) => /^(if-)?range$/i.test(name));
    const further = pair.sent.method !== 'GET' || isOwn ? [] : (this.transfer?.askingForRest ?? []);
    if (further.length === 0) return pair;
    const asked = (request: HttpRequest): HttpRequest => ({ ...request, headers: [...request.headers, ...further] });
    return { ...pair, sent: asked(pair.sent), shown: asked(pair.shown) };
  }

  /** The response as the chain sees it: with the rest of a body, that of the whole (RFC 9110 section 15.3.7.3). */
  async whole(response: HttpResponse): Promise<HttpResponse> {
    this.listRead = await this.list?.sink.finish();
    if (this.listRead && 'bytes' in this.listRead) return { ...response, body: this.listRead.bytes };
    if (this.current !== 'rest') return response;
    return { ...response, status: 200, reason: 'OK, continued by 206' };
  }

  /** Whether what came is not the rest that was asked for, so that all has to be asked for again. */
  startsOver({ status }: HttpResponse): boolean {
    const isUnfit = this.current === 'unfit' || (status === 416 && this.transfer !== undefined);
    if (!isUnfit) return false;
    void this.transfer?.file.abandon();
    this.transfer = undefined;
    return true;
  }

  private save(head: ResponseHead, maxBytes: number): BodySink | undefined {
    const { transfer } = this;
    this.current = undefined;
    if (head.status === 206 && transfer && transfer.askingForRest.length > 0) {
      this.current = transfer.isContinuedBy(head) ? 'rest' : 'unfit';
      return this.current === 'rest' ? transfer.sink : NOTHING_WANTED;
    }
    return this.wanted(head) ? this.begin(head, maxBytes) : undefined;
  }

  private wanted(head: ResponseHead): boolean {
    const { step, endpoint, context } = this.site;
    const response: HttpResponse = { ...head, ...NO_BODY };
    const view = new ResponseView(response, { as: 'none', value: undefined }, { url: '', tookMs: 0 });
    return judgeHead(step, head.status, endpoint, responseFrame(context, endpoint, view));
  }

  private listen(maxBytes: number): BodySink {
    this.events = new EventSink(this.isEnough(), this.site.step.untilEvent?.withinMs ?? WITHIN_MS);
    return new BoundedSink(this.events, maxBytes);
  }

  private begin(head: ResponseHead, maxBytes: number): BodySink | undefined {
    // A try before this one may have begun it.
    void this.transfer?.file.abandon();
    this.transfer = undefined;
    const template = this.site.step.save!;
    const named = catchFillFault(() => fillFileName(template, this.resolvers().real));
    if ('problem' in named) {
      this.problem = named.problem;
      return undefined;
    }
    const file = this.site.context.runHost.saveFile(named.value);
    if (!('message' in file)) {
      if (!file.isThere || this.mayReplace(file.path)) {
        this.current = 'all';
        return (this.transfer = new Transfer(file, maxBytes, head)).sink;
      }
      this.problem = fileExists(template.source, file.path);
      return undefined;
    }
    this.problem = problemAt(template.source, file.code ?? 'outside-project', file.message, file.advice);
    return undefined;
  }

  /** A name that the chain alone chose, what the step allows, or what this very run saved there. */
  private mayReplace(path: string): boolean {
    const { step, context } = this.site;
    const before = context.recorded?.isSameRun
      ? context.recorded.records.steps.saved(context.address)?.path
      : undefined;
    return step.replace || plainTextOf(step.save!) !== undefined || before === path;
  }

  /** Asked after each event, with `$` as the list so far. */
  private isEnough(): EventSink['isEnough'] {
    const { step, context, endpoint } = this.site;
    const { until, maxEvents } = step.untilEvent ?? { until: undefined, maxEvents: AT_MOST };
    return (events) => {
      if (events.length >= maxEvents) return true;
      if (!until?.tree) return false;
      const response: HttpResponse = { status: 200, reason: '', headers: [], ...NO_BODY };
      const view = new ResponseView(response, { as: 'events', value: [...events] }, { url: '', tookMs: 0 });
      return evaluate(until.tree, responseFrame(context, endpoint, view)).value === true;
    };
  }

  /** Whether the body came here. */
  get isUsed(): boolean {
    return this.isSaved || this.events !== undefined || this.isStreamed;
  }

  private get isStreamed(): boolean {
    return this.listRead !== undefined && !('bytes' in this.listRead);
  }

  /** What a try before began is no part of a response that is not saved. */
  private get isSaved(): boolean {
    return this.transfer !== undefined && this.current !== undefined;
  }

  /** What the body was read as, when it came here; and what of it is recorded. */
  async finished(type: string): Promise<Readonly<{ decoded: Decoded; body: BodyRef; file?: EventBody }> | undefined> {
    if (this.transfer && this.isSaved) {
      const saved = (this.saved ??= await this.transfer.file.finish());
      const { path, size, sha256, replaced } = saved;
      const value = { path, size, type, sha256 };
      const op = replaced ? ('replaced' as const) : ('saved' as const);
      return {
        decoded: { as: 'bytes', value },
        body: { sha256, size, ...(type ? { type } : {}), dropped: 'saved' },
        file: { type: 'file', step: this.site.context.address, path, op, after: { size, sha256 } },
      };
    }
    const list = this.streamed(type);
    if (list) return list;
    if (!this.events) return undefined;
    const { events, text } = this.events;
    const body = this.site.context.run.recorder.body({ content: text, type, as: 'events' });
    return { decoded: { as: 'events', value: events, text }, body };
  }

  private streamed(type: string): Readonly<{ decoded: Decoded; body: BodyRef }> | undefined {
    const { list, listRead } = this;
    if (!list || !listRead || 'bytes' in listRead) return undefined;
    const { as, bounded } = list;
    const decoded: Decoded =
      'problem' in listRead
        ? { as, ...listRead }
        : { as, value: bodyWith(listRead.list, streamedListOf(this.site, as)!) };
    return { decoded, body: { size: bounded.size, ...(type ? { type } : {}), dropped: 'streamed' } };
  }

  /** Puts the file into its place: what came is as it should be. */
  place(): void {
    if (this.saved) this.transfer?.file.place();
  }

  async abandon(): Promise<void> {
    await this.transfer?.file.abandon();
  }
}

/** Ends a body of which nothing is of use. */
const NOTHING_WANTED: BodySink = { write: () => 'enough' };

const NO_BODY = {
  http: '',
  body: new Uint8Array(),
  encodedSize: 0,
  reused: false,
  timings: { blocked: 0, dns: 0, connect: 0, tls: 0, send: 0, wait: 0, receive: 0 },
};
