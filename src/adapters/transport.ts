import type { Dispatcher, Pool } from 'undici';
import UndiciPool from 'undici/lib/dispatcher/pool.js';
import {
  headerOf,
  splitUrl,
  type Broken,
  type ExchangeResult,
  type Header,
  type HttpRequest,
  type Phase,
  type Timings,
} from '../core/http/message.ts';
import type { ExchangeLimits, Transport } from '../core/ports.ts';
import { counted } from '../core/value/show.ts';
import { watchedConnector, type Connecting } from './connector.ts';
import { decompress, type Decompressed } from './decompress.ts';

/** Requests in flight to one origin, and bytes and fields of a response's headers. */
const CONNECTIONS = 6;
const MAX_HEADER_BYTES = 64 * 1024;
const MAX_HEADER_FIELDS = 200;

type Origin = Readonly<{ pool: Pool; connecting: Connecting }>;

/** The network by undici's pools: one an origin, kept alive, one request at a time on a connection. */
export function createTransport(): Transport {
  const origins = new Map<string, Origin>();
  const inFlight = new Set<Exchange>();
  // One listener for the run, not one for each request.
  let watched: AbortSignal | undefined;
  const watch = (signal: AbortSignal) => {
    if (watched === signal) return;
    watched = signal;
    signal.addEventListener('abort', () => inFlight.forEach((exchange) => exchange.interrupt()));
  };
  const originOf = (url: string): Origin => {
    let entry = origins.get(url);
    if (!entry) {
      const connecting: Connecting = { times: undefined, phase: 'lookup' };
      const pool = new UndiciPool(url, {
        connections: CONNECTIONS,
        pipelining: 1,
        maxHeaderSize: MAX_HEADER_BYTES,
        headersTimeout: 0,
        bodyTimeout: 0,
        connect: watchedConnector(connecting),
      });
      origins.set(url, (entry = { pool, connecting }));
    }
    return entry;
  };
  return {
    exchange: (request, limits, signal) => {
      const { origin, path } = splitUrl(request.url);
      watch(signal);
      return new Promise((resolve) => {
        const exchange = new Exchange(originOf(origin.replace(/\/\/[^@/]*@/, '//')), limits, (result) => {
          inFlight.delete(exchange);
          resolve(result);
        });
        inFlight.add(exchange);
        if (signal.aborted) exchange.interrupt();
        else exchange.dispatch(path, request);
      });
    },
    close: async () => {
      await Promise.all([...origins.values()].map(({ pool }) => pool.destroy()));
    },
  };
}

/** Why we ended an exchange ourselves. */
type Stop = Readonly<{ code: Broken['code']; message: string }>;

/** One request through a pool, under its time limits, its body collected up to the limit. */
class Exchange {
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
  private readonly timesBefore;

  constructor(
    private readonly origin: Origin,
    private readonly limits: ExchangeLimits,
    private readonly settle: (result: ExchangeResult) => void,
  ) {
    this.timesBefore = origin.connecting.times;
    this.limit('connect');
    this.watchLimits();
  }

  dispatch(path: string, { method, headers, body }: HttpRequest): void {
    this.origin.pool.dispatch(
      {
        path,
        method: method as Dispatcher.HttpMethod,
        headers: headers.flat(),
        body: body ?? null,
      },
      this as unknown as Dispatcher.DispatchHandler,
    );
  }

  interrupt(): void {
    this.end({ code: 'no-connection', message: 'The run was interrupted' });
  }

  onRequestStart(controller: Dispatcher.DispatchController): void {
    this.controller = controller;
    this.sentAt = performance.now();
    this.phase = 'response';
    this.limit('response');
    if (this.stop) controller.abort(new Error(this.stop.message));
  }

  onResponseStart(controller: Dispatcher.DispatchController, status: number, _headers: unknown, reason = ''): void {
    // 1xx responses only announce the final one (RFC 9110 section 15.2).
    if (status < 200) return;
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
  }

  onResponseData(_controller: unknown, chunk: Uint8Array): void {
    this.size += chunk.length;
    if (this.size > this.limits.maxBodyBytes) this.end(tooBig(this.limits));
    else this.chunks.push(chunk);
    this.limitFrom = performance.now();
  }

  onResponseEnd(): void {
    const ended = performance.now();
    this.clear();
    void this.finish(ended);
  }

  onResponseError(_controller: unknown, error: Error): void {
    this.clear();
    this.settle({ broken: this.explain(error) });
  }

  private async finish(ended: number): Promise<void> {
    const body = this.chunks.length === 1 ? this.chunks[0]! : Buffer.concat(this.chunks, this.size);
    const coding = headerOf(this.headers, 'content-encoding');
    const unpacked: Decompressed =
      coding === undefined ? { body } : await decompress(body, coding, this.limits.maxBodyBytes);
    if (unpacked.reason !== undefined) {
      this.settle({
        broken: this.broken(unpackingStop(unpacked.reason, unpacked.what, this.limits), 'content-coding'),
      });
      return;
    }
    const { connecting } = this.origin;
    this.settle({
      response: {
        status: this.status,
        reason: this.reason,
        http: 'HTTP/1.1',
        headers: this.headers,
        body: unpacked.body,
        encodedSize: this.size,
        reused: connecting.times === this.timesBefore,
        timings: this.timings(ended),
      },
    });
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

  private limit(name: 'connect' | 'response' | 'idle'): void {
    this.limitName = name;
    this.limitMs = this.limits.timeouts[name];
    this.limitFrom = performance.now();
  }

  /** Waits for the nearest limit; ends the exchange when it was reached, and waits for the next otherwise. */
  private watchLimits(): void {
    const now = performance.now();
    const { whole } = this.limits.timeouts;
    const phaseLeft = this.limitFrom + this.limitMs - now;
    const wholeLeft = whole === undefined ? Infinity : this.started + whole - now;
    if (wholeLeft <= 0) this.timeOut('whole', whole!);
    else if (phaseLeft <= 0) this.timeOut(this.limitName, this.limitMs);
    // A phase to come may have a nearer limit than the present one.
    else this.timer = setTimeout(() => this.watchLimits(), Math.ceil(Math.min(phaseLeft, wholeLeft, this.nearest)));
  }

  private get nearest(): number {
    const { connect, response, idle } = this.limits.timeouts;
    return Math.max(1, Math.min(connect, response, idle));
  }

  private timeOut(what: string, milliseconds: number): void {
    const waited = `${milliseconds / 1000} s`;
    const words: Readonly<Record<string, string>> = {
      connect: `No connection within ${waited}`,
      response: `No response within ${waited} after the request was sent`,
      idle: `The body stopped: nothing more came for ${waited}, after ${bytes(this.size)}`,
      whole:
        this.headersAt > 0
          ? `Not complete within ${waited}: ${bytes(this.size)} of the body came`
          : `Not complete within ${waited}: no response came`,
    };
    this.end({ code: 'timed-out', message: words[what]! });
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

  private broken({ code, message }: Stop, cause: string): Broken {
    const phase = this.phase === 'connect' ? this.origin.connecting.phase : this.phase;
    const reached = this.sentAt > 0 ? 'maybe' : 'no';
    return { code, message, cause, phase, reached };
  }

  private clear(): void {
    clearTimeout(this.timer);
  }
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

function bytes(count: number): string {
  return counted(count, 'byte');
}

function tooBig({ maxBodyBytes }: ExchangeLimits): Stop {
  return {
    code: 'body-too-big',
    message: `The body has more than ${maxBodyBytes / 1024 / 1024} MiB, counted after decompression`,
  };
}

function unpackingStop(
  reason: 'too-big' | 'damaged' | 'unknown' | 'too-many',
  what: string,
  limits: ExchangeLimits,
): Stop {
  switch (reason) {
    case 'too-big':
      return tooBig(limits);
    case 'damaged':
      return {
        code: 'not-decodable',
        message: `The body says that it is compressed with ${what}, and cannot be unpacked`,
      };
    case 'unknown':
      return {
        code: 'not-decodable',
        message: `The body is encoded with "${what}", which was not asked for and is not known`,
      };
    case 'too-many':
      return {
        code: 'over-limit',
        message: `The body is encoded more than three times over: ${what}`,
      };
  }
}

const CAUSES: Readonly<Record<string, string>> = {
  ECONNREFUSED: 'Nothing listens there: the connection was refused',
  ENOTFOUND: 'The name of the host was not found',
  EAI_AGAIN: 'The name of the host could not be looked up just now',
  ECONNRESET: 'The connection was reset',
  ETIMEDOUT: 'No connection: the network did not answer',
  EHOSTUNREACH: 'The host cannot be reached',
  ENETUNREACH: 'The network cannot be reached',
  CERT_HAS_EXPIRED: 'The certificate of the server has expired',
  DEPTH_ZERO_SELF_SIGNED_CERT: 'The certificate of the server is signed by itself',
  SELF_SIGNED_CERT_IN_CHAIN: 'A certificate of the server is signed by itself',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'The certificate of the server is signed by nobody who is trusted here',
  ERR_TLS_CERT_ALTNAME_INVALID: 'The certificate of the server is for another name',
  UND_ERR_HEADERS_OVERFLOW: 'The response has more than 64 KiB of headers',
};

function connectionWords(error: Error, phase: Phase, received: number): string {
  const cause = (error as { cause?: NodeJS.ErrnoException }).cause;
  const first = error instanceof AggregateError ? (error.errors[0] as NodeJS.ErrnoException) : undefined;
  const code = [(error as NodeJS.ErrnoException).code, first?.code, cause?.code].find(
    (each) => each !== undefined && CAUSES[each],
  );
  const where = phase === 'body' ? `, in the middle of the body, after ${bytes(received)}` : '';
  if (code !== undefined) return CAUSES[code]! + where;
  const name = (error as NodeJS.ErrnoException).code ?? '';
  if (error.name === 'HTTPParserError') return `What came back is no HTTP response: ${error.message}`;
  if (name === 'UND_ERR_SOCKET')
    return phase === 'body' ? `The connection was closed${where}` : 'The connection was closed before a response came';
  if (/content-length/i.test(error.message)) return `The body has another length than its Content-Length says${where}`;
  return error.message;
}
