import { createServer, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { requestBody } from './request-body.ts';
import type { AskedRequest, StandInAnswer } from '../core/report/stand-in.ts';

/** A request that was answered, for whoever watches. */
export type ServedRequest = Readonly<{ method: string; target: string; answer: string; isKnown: boolean }>;

/** What answers in place of a server. */
type Answering = Readonly<{ answer(request: AskedRequest): StandInAnswer }>;

type ServeOptions<A extends Answering> = Readonly<{
  port: number;
  /** Whether answers take as long as they did. */
  timed: boolean;
  standInAt(origin: string): A;
  /** What a request is called that it has no answer to: `not in the record`. */
  unknown: string;
  served(request: ServedRequest): void;
}>;

/** Bytes of a request that are read. */
const MAX_BYTES = 64 * 1024 * 1024;

/** Listens on the loopback address and answers as a stand-in says. Rejects with the error of the system where it cannot. */
export function serveStandIn<A extends Answering>({ port, timed, standInAt, served, unknown }: ServeOptions<A>) {
  let standIn: A;
  const server = createServer((message, response) => {
    void requestBody(message, MAX_BYTES).then((content) => {
      if (!content) return void response.writeHead(413).end();
      const { method = 'GET', url: target = '/', headers } = message;
      const body = new TextDecoder().decode(content);
      const pairs = Object.entries(headers).map(([name, value]) => [name, String(value)] as const);
      answer({ method, target, type: headers['content-type'], body, headers: pairs }, response);
    });
  });
  function answer(request: AskedRequest, response: ServerResponse): void {
    const { method, target } = request;
    const given = standIn.answer(request);
    const report = (text: string, isKnown = true) => served({ method, target, answer: text, isKnown });
    if ('unknown' in given) {
      report(`501   ${given.unknown}`, false);
      const body = `${method} ${target} is ${unknown}. ${given.unknown}\n`;
      return void response.writeHead(501, { 'Content-Type': 'text/plain; charset=utf-8' }).end(body);
    }
    const give = (): void => {
      if ('broken' in given) {
        report(`closed   ${given.broken}`);
        return void response.destroy();
      }
      const { note } = given;
      report(
        note === undefined ? String(given.status) : `${given.status}   ${note}`,
        note === undefined || given.status < 400,
      );
      // Of what the record shows of a header, a server can send what is Latin-1.
      const headers = given.headers.map(([name, value]) => [name, value.replace(/[^\t\x20-\xff]/g, '?')]).flat();
      response.writeHead(given.status, headers).end(method === 'HEAD' ? undefined : given.body);
    };
    if (timed && given.tookMs > 0) setTimeout(give, given.tookMs);
    else give();
  }
  return new Promise<Readonly<{ url: string; standIn: A; close(): void }>>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => {
      const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
      standIn = standInAt(url);
      const close = (): void => {
        server.close();
        server.closeAllConnections();
      };
      resolve({ url, standIn, close });
    });
  });
}
