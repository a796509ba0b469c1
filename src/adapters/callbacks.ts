import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { requestBody } from './request-body.ts';
import { onAbort } from '../core/abort.ts';
import type { AddressInfo } from 'node:net';
import type { Header } from '../core/http/message.ts';
import type { CallbackServer, OpenCallbacks, ReceivedRequest } from '../core/ports.ts';

/** Requests that are kept before anybody waits for them, and bytes of each. */
const MAX_WAITING = 100;
const MAX_BYTES = 1024 * 1024;

/** Why an address cannot be listened at, in words. */
const WHY_NOT: Readonly<Record<string, string>> = {
  EADDRINUSE: 'another program is listening on that port',
  EACCES: 'this user may not listen on that port',
  EADDRNOTAVAIL: 'that is not an address of this machine',
  ENOTFOUND: 'that is not an address of this machine',
};

/** Milliseconds for which the last answers may still be on their way when an address is closed. */
const LINGER_MS = 500;

type Arrived = Readonly<{ request: ReceivedRequest; response: ServerResponse }>;
type Waiter = Readonly<{
  fits(request: ReceivedRequest): boolean;
  take(arrived: Arrived): void;
  passed(request: ReceivedRequest): void;
}>;

/** Listens for callbacks on one path; everything else there is 404. A late or malformed request harms nobody. */
export const openCallbacks: OpenCallbacks = ({ path, port, bind }) => {
  const arrivals = new Arrivals();
  const host = bind.includes(':') ? `[${bind}]` : bind;
  const server = createServer((message, response) => {
    const address = server.address() as AddressInfo;
    const base = `http://${host}:${address.port}`;
    const target = message.url ?? '/';
    if (!URL.canParse(target, base)) return void response.writeHead(400).end();
    const url = new URL(target, base);
    if (url.pathname !== path) return void response.writeHead(404).end();
    void requestBody(message, MAX_BYTES).then((body) => {
      if (!body) return void response.writeHead(413).end();
      const method = message.method ?? 'GET';
      arrivals.offer({ request: { method, url: url.href, headers: pairsOf(message), body }, response });
    });
  });
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      reject(new Error(WHY_NOT[error.code ?? ''] ?? error.message)),
    );
    server.listen(port, bind, () => {
      const { port: own } = server.address() as AddressInfo;
      resolve({
        url: `http://${host}:${own}${path}`,
        port: own,
        next: arrivals.next,
        close: () => {
          arrivals.close();
          server.close();
          server.closeIdleConnections();
          // Whoever keeps a connection open, or is slow to read an answer, does not keep the run from ending.
          setTimeout(() => server.closeAllConnections(), LINGER_MS).unref();
        },
      });
    });
  });
};

/** Requests that arrived, each for the next who waits for one like it. */
class Arrivals {
  private readonly waiting: Arrived[] = [];
  private waiter: Waiter | undefined;

  offer(arrived: Arrived): void {
    const { waiter, waiting } = this;
    if (!waiter) {
      if (waiting.length < MAX_WAITING) waiting.push(arrived);
      else arrived.response.writeHead(503).end();
      return;
    }
    if (waiter.fits(arrived.request)) return waiter.take(arrived);
    waiter.passed(arrived.request);
    arrived.response.writeHead(202).end();
  }

  readonly next: CallbackServer['next'] = (fits, { milliseconds, signal, passed }) =>
    new Promise((resolve) => {
      const done = (arrived: Arrived | undefined): void => {
        clearTimeout(timer);
        leave();
        this.waiter = undefined;
        if (!arrived) return resolve(undefined);
        const { request, response } = arrived;
        resolve({
          ...request,
          answer: ({ status, headers, body }) =>
            void response.writeHead(status, headers.map(([name, value]) => [name, value]).flat()).end(body),
        });
      };
      const stop = (): void => done(undefined);
      const timer = setTimeout(stop, milliseconds);
      const leave = onAbort(signal, stop);
      this.waiter = { fits, take: done, passed };
      // Those that came before, in order, until one fits.
      while (this.waiter && this.waiting.length > 0) this.offer(this.waiting.shift()!);
    });

  /** Nobody waits any more: whoever sent something is answered all the same. */
  close(): void {
    for (const { response } of this.waiting) response.writeHead(202).end();
  }
}

function pairsOf({ rawHeaders }: IncomingMessage): readonly Header[] {
  return Array.from({ length: rawHeaders.length / 2 }, (_, i): Header => [rawHeaders[i * 2]!, rawHeaders[i * 2 + 1]!]);
}
