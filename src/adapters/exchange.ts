import type { Dispatcher } from 'undici';
import {
  headerOf,
  type BodySink,
  type Broken,
  type ExchangeResult,
  type Header,
  type HttpRequest,
  type HttpResponse,
  type Limit,
  type Phase,
  type Timings,
} from '../core/http/message.ts';
import { Readable } from 'node:stream';
import type { ExchangeOptions } from '../core/ports.ts';
import { pumpingStop, timeOutStop, tooBig, unpackingStop, type Stop } from './exchange-stops.ts';
import { connectionWords } from './connection-words.ts';
import type { Connecting } from './connector.ts';
import { decompress } from './decompress.ts';
import { SinkPump } from './sink-pump.ts';

/** Fields of a response's headers. */
const MAX_HEADER_FIELDS = 200;

/** Where requests to one origin go, and the connection that is being made for them. */
export type Origin = Readonly<{
  dispatcher: Dispatcher;
  connecting: Connecting;
  /** The target of a request: its path, or for a proxy that is asked for it the whole URL. */
  targetOf(path: string): string;
  headers: readonly Header[];
}>;

/** One request through a pool, under its time limits, its body collected up to the limit. */
export class Exchange {
  private phase: Phase = 'connect';
  private stop: Stop | undefined;
  private controller: Dispatcher.DispatchController | undefined;
  /** One timer for all limits: a limit that is moved is only noted, and the timer set again when it goes off early. */
  private timer: NodeJS.Timeout | undefined;
  private limitName: 'connect' | 'response' | 'idle' = 'connect';
  private limitMs = 0;
  private limitFrom = 0;
  private readonly started = performance.now();
  private sentAt = 0;
  private headersAt = 0;
  private status = 0;
  private reason = '';
  private headers: readonly Header[] = [];
  private readonly chunks: Uint8Array[] = [];
  private size = 0;
  private pump: SinkPump | undefined;
  private sink: BodySink | undefined;
  /** The sink has all that it wants: what is left of the body is not waited for. */
  private isEnough = false;
  private endTimer: NodeJS.Timeout | undefined;
  private readonly timesBefore;

  constructor(
    private readonly origin: Origin,
    private readonly options: ExchangeOptions,
    private readonly settle: (result: ExchangeResult) => void,
  ) {
    this.timesBefore = origin.connecting.times;
    this.limit('connect');
    this.watchLimits();
  }

  dispatch(path: string, { method, headers, body }: HttpRequest): void {
    const streamed = body !== undefined && typeof body !== 'string' && !(body instanceof Uint8Array) ? body : undefined;
    const length: readonly Header[] = streamed ? [['Content-Length', String(streamed.size)]] : [];
    this.origin.dispatcher.dispatch(
      {
        path: this.origin.targetOf(path),
        method: method as Dispatcher.HttpMethod,
        headers: flat([this.origin.headers, headers, length]),
        body: streamed ? Readable.from(streamed.chunks()) : ((body as string | Uint8Array | undefined) ?? null),
      } as Dispatcher.DispatchOptions,
      this as unknown as Dispatcher.DispatchHandler,
    );
  }

  interrupt(): void {
    this.end({ code: 'no-connection', message: 'The run was interrupted' });
  }

  onRequestStart(controller: Dispatcher.DispatchController): void {
    this.controller = controller;
    this.sentAt = performance.now();
    this.options.onSending?.();
    this.phase = 'response';
    this.limit('response');
    if (this.stop) controller.abort(new Error(this.stop.message));
  }

  onResponseStart(controller: Dispatcher.DispatchController, status: number, _headers: unknown, reason = ''): void {
    // 1xx responses only announce the final one (RFC 9110 section 15.2).
    if (status >= 100 && status < 200) return;
    if (status < 200 || status > 999)
      this.end({ code: 'not-decodable', message: `The response has the status ${status}, which is none` });
    this.headersAt = performance.now();
    this.status = status;
    this.reason = reason;
    this.headers = rawPairs(controller);
    this.phase = 'body';
    this.limit('idle');
    if (this.headers.length > MAX_HEADER_FIELDS) {
      this.end({
        code: 'over-limit',
        message: `The response has more than ${MAX_HEADER_FIELDS} headers`,
      });
    }
    const sink = this.options.sinkFor?.({ status, reason, headers: this.headers });
    if (sink) this.pumpInto(sink, controller);
  }

  /** From here on only the sink, or silence, ends the exchange; a limit on the whole of it ends at the headers. */
  private pumpInto(sink: BodySink, controller: Dispatcher.DispatchController): void {
    this.sink = sink;
    this.pump = new SinkPump(sink, controller, headerOf(this.headers, 'content-encoding'));
    if (sink.endsAfterMs !== undefined) {
      this.clear();
      this.endTimer = setTimeout(() => this.enough(), sink.endsAfterMs);
    }
    void this.pump.done.then((pumped) => {
      if (pumped.outcome === 'enough') this.enough();
      else if (pumped.outcome !== 'complete') this.end(pumpingStop(pumped, sink));
    });
  }

  private enough(): void {
    if (this.isEnough) return;
    this.isEnough = true;
    this.controller?.abort(new Error('enough'));
  }

  onResponseData(_controller: unknown, chunk: Uint8Array): void {
    this.size += chunk.length;
    if (this.pump) this.pump.pushed(chunk);
    else if (this.size > this.options.maxBodyBytes) this.end(tooBig(this.options));
    else this.chunks.push(chunk);
    this.limitFrom = performance.now();
  }

  onResponseEnd(): void {
    const ended = performance.now();
    this.clear();
    const isPlain = !this.pump && headerOf(this.headers, 'content-encoding') === undefined;
    if (isPlain) this.settle({ response: this.response(this.body(), ended) });
    else void this.finish(ended);
  }

  onResponseError(_controller: unknown, error: Error): void {
    this.clear();
    this.pump?.cancel();
    if (this.isEnough) void this.finish(performance.now());
    else this.settle({ broken: this.explain(error) });
  }

  private async finish(ended: number): Promise<void> {
    if (this.pump) {
      if (!this.isEnough) this.pump.ended();
      const pumped = await this.pump.done;
      if (pumped.outcome !== 'complete' && !this.isEnough)
        return this.settle({ broken: this.broken(pumpingStop(pumped, this.sink!), 'content-coding') });
      return this.settle({ response: this.response(new Uint8Array(), ended) });
    }
    const coding = headerOf(this.headers, 'content-encoding');
    const unpacked = await decompress(this.body(), coding, this.options.maxBodyBytes);
    if (unpacked.reason !== undefined) {
      this.settle({
        broken: this.broken(unpackingStop(unpacked.reason, unpacked.what, this.options), 'content-coding'),
      });
      return;
    }
    this.settle({ response: this.response(unpacked.body, ended) });
  }

  private body(): Uint8Array {
    return this.chunks.length === 1 ? this.chunks[0]! : Buffer.concat(this.chunks, this.size);
  }

  private response(body: Uint8Array, ended: number): HttpResponse {
    const { connecting } = this.origin;
    return {
      status: this.status,
      reason: this.reason,
      http: connecting.protocol === 'h2' ? 'HTTP/2' : 'HTTP/1.1',
      headers: this.headers,
      body,
      encodedSize: this.size,
      reused: connecting.times === this.timesBefore,
      timings: this.timings(ended),
    };
  }

  private timings(ended: number): Timings {
    const { times } = this.origin.connecting;
    const fresh = times && times !== this.timesBefore ? times : undefined;
    const between = (from: number | undefined, to: number | undefined) =>
      from === undefined || to === undefined ? 0 : rounded(to - from);
    const connectFrom = fresh?.looked ?? fresh?.started;
    return {
      blocked: between(this.started, fresh?.started ?? this.sentAt),
      dns: between(fresh?.started, fresh?.looked),
      connect: between(connectFrom, fresh?.connected),
      tls: between(fresh?.connected, fresh?.secured),
      send: 0,
      wait: between(this.sentAt, this.headersAt),
      receive: between(this.headersAt, ended),
    };
  }

  private limit(name: Exclude<Limit, 'whole'>): void {
    this.limitName = name;
    this.limitMs = this.options.timeouts[name];
    this.limitFrom = performance.now();
  }

  /** Waits for the nearest limit; ends the exchange when it was reached, and waits for the next otherwise. */
  private watchLimits(): void {
    const now = performance.now();
    const { whole } = this.options.timeouts;
    const phaseLeft = this.limitFrom + this.limitMs - now;
    const wholeLeft = whole === undefined || this.pump ? Infinity : this.started + whole - now;
    if (wholeLeft <= 0) this.timeOut('whole', whole!);
    else if (phaseLeft <= 0) this.timeOut(this.limitName, this.limitMs);
    // A phase to come may have a nearer limit than the present one.
    else this.timer = setTimeout(() => this.watchLimits(), Math.ceil(Math.min(phaseLeft, wholeLeft, this.nearest)));
  }

  private get nearest(): number {
    const { connect, response, idle } = this.options.timeouts;
    return Math.max(1, Math.min(connect, response, idle));
  }

  private timeOut(what: Limit, milliseconds: number): void {
    this.end(timeOutStop(what, milliseconds, { size: this.size, hasHeaders: this.headersAt > 0 }));
  }

  private end(stop: Stop): void {
    this.stop ??= stop;
    if (this.controller) {
      this.controller.abort(new Error(stop.message));
      return;
    }
    // Not yet connected: the request is still in the pool's queue, and aborts as soon as it leaves it.
    this.clear();
    this.settle({ broken: this.broken(this.stop, 'stopped') });
  }

  private explain(error: Error): Broken {
    if (this.stop) return this.broken(this.stop, 'stopped');
    const code = (error as NodeJS.ErrnoException).code ?? error.name;
    return this.broken(
      {
        code: 'no-connection',
        message: connectionWords(error, this.phase, this.size),
      },
      code,
    );
  }

  private broken({ code, message, limit }: Stop, cause: string): Broken {
    const phase = this.phase === 'connect' ? this.origin.connecting.phase : this.phase;
    const reached = this.sentAt > 0 ? 'maybe' : 'no';
    return { code, message, cause, phase, reached, ...(limit ? { limit } : {}) };
  }

  private clear(): void {
    clearTimeout(this.timer);
    clearTimeout(this.endTimer);
  }
}

/** Headers as the package takes them: names and values in turns. */
function flat(lists: readonly (readonly Header[])[]): string[] {
  const texts: string[] = [];
  for (const list of lists) for (const [name, value] of list) texts.push(name, value);
  return texts;
}

function rawPairs(controller: Dispatcher.DispatchController): readonly Header[] {
  const raw = (controller as unknown as { rawHeaders: Buffer[] }).rawHeaders;
  const pairs: Header[] = [];
  for (let i = 0; i + 1 < raw.length; i += 2) pairs.push([raw[i]!.toString('latin1'), raw[i + 1]!.toString('latin1')]);
  return pairs;
}

function rounded(milliseconds: number): number {
  return Math.max(0, Math.round(milliseconds * 100) / 100);
}
