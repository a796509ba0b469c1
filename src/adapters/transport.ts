import { FewMap } from '../core/few-map.ts';
import type { Dispatcher } from 'undici';
import UndiciPool from 'undici/lib/dispatcher/pool.js';
import connectThrough from 'undici/lib/api/api-connect.js';
import ProxyAgent from 'undici/lib/dispatcher/proxy-agent.js';
import { splitUrl, type ConnectionOptions, type Header } from '../core/http/message.ts';
import type { Transport } from '../core/ports.ts';
import { tlsOptions, watchedConnector, type Connecting } from './connector.ts';
import { Exchange, type Origin } from './exchange.ts';
import { proxyFor } from './proxies.ts';

/** Connections to one origin, and bytes of a response's headers. */
const CONNECTIONS = 64;
const MAX_HEADER_BYTES = 64 * 1024;

/** The network by undici's pools: one an origin, kept alive, one request at a time on a connection. */
export function createTransport(environment: NodeJS.ProcessEnv = {}): Transport {
  const origins = new Map<string, Origin>();
  const inFlight = new FewMap<Exchange, Exchange>();
  // One listener for the run, not one for each request.
  let watched: AbortSignal | undefined;
  const watch = (signal: AbortSignal) => {
    if (watched === signal) return;
    watched = signal;
    signal.addEventListener('abort', () => inFlight.values().forEach((exchange) => exchange.interrupt()));
  };
  const byConnection = new Map<ConnectionOptions, Map<string, Origin>>();
  const originOf = (url: string, connection: ConnectionOptions): Origin => {
    let known = byConnection.get(connection);
    if (!known) byConnection.set(connection, (known = new Map<string, Origin>()));
    let entry = known.get(url);
    if (!entry) {
      entry = openOrigin(url, connection, environment);
      known.set(url, entry);
      origins.set(`${byConnection.size} ${url}`, entry);
    }
    return entry;
  };
  return {
    exchange: (request, options, signal) => {
      const { origin, path } = splitUrl(request.url);
      watch(signal);
      return new Promise((resolve) => {
        const url = origin.replace(/\/\/[^@/]*@/, '//');
        const exchange = new Exchange(originOf(url, options.connection), options, (result) => {
          inFlight.delete(exchange);
          resolve(result);
        });
        inFlight.set(exchange, exchange);
        if (signal.aborted) exchange.interrupt();
        else exchange.dispatch(path, request);
      });
    },
    close: async () => {
      await Promise.all([...origins.values()].map(({ dispatcher }) => dispatcher.destroy()));
    },
  };
}

function openOrigin(url: string, connection: ConnectionOptions, environment: NodeJS.ProcessEnv): Origin {
  const connecting: Connecting = { times: undefined, phase: 'lookup', protocol: undefined };
  const pooled = {
    connections: CONNECTIONS,
    pipelining: 1,
    maxHeaderSize: MAX_HEADER_BYTES,
    headersTimeout: 0,
    bodyTimeout: 0,
    ...(connection.http2 ? { allowH2: true } : {}),
  };
  const direct = (to: string): Dispatcher =>
    new UndiciPool(to, { ...pooled, connect: watchedConnector(connecting, connection) });
  const proxy = connection.to ? undefined : proxyFor(url, connection.proxy, environment);
  const plain = { connecting, targetOf: (path: string) => path, headers: [] };
  if (!proxy) return { ...plain, dispatcher: direct(url) };
  if (url.startsWith('http:')) {
    // A proxy is asked for plain http by the whole URL (RFC 9112 section 3.2.2); the Host is that of the origin.
    const headers: Header[] = [['Host', new URL(url).host], ...proxy.headers];
    return { connecting, dispatcher: direct(proxy.origin), targetOf: (path) => url + path, headers };
  }
  const tunnel = new ProxyAgent({
    ...pooled,
    uri: proxy.origin,
    clientFactory: (to: URL, options: object) =>
      Object.assign(new UndiciPool(to, options), { connect: connectThrough }),
    requestTls: tlsOptions(connection)!,
    ...(proxy.headers[0] ? { token: proxy.headers[0][1] } : {}),
  });
  return { ...plain, dispatcher: withOrigin(tunnel, url) };
}

/** The package's agent wants to be told the origin with every request. */
function withOrigin(agent: Dispatcher, origin: string): Dispatcher {
  return {
    dispatch: (options: Dispatcher.DispatchOptions, handler: Dispatcher.DispatchHandler) =>
      agent.dispatch({ ...options, origin }, handler),
    destroy: () => agent.destroy(),
  } as unknown as Dispatcher;
}
