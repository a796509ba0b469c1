import buildConnector from 'undici/lib/core/connect.js';
import type { Socket } from 'node:net';
import type { TLSSocket } from 'node:tls';
import type { ConnectionOptions, Phase } from '../core/http/message.ts';

/** When a connection got how far, by the monotonic clock. */
type ConnectionTimes = { started: number; looked?: number; connected?: number; secured?: number };

/** The connection that an exchange waits for, or waited for last: its times, the phase that it is in, its protocol. */
export type Connecting = { times: ConnectionTimes | undefined; phase: Phase; protocol: string | undefined };

type Connect = ReturnType<typeof buildConnector>;

/** Options of TLS: version 1.2 at least, and the certificates that the project names. */
export function tlsOptions({ ca, cert, key, verify }: ConnectionOptions): Parameters<typeof buildConnector>[0] {
  return {
    minVersion: 'TLSv1.2',
    ...(ca === undefined ? {} : { ca }),
    ...(cert === undefined ? {} : { cert }),
    ...(key === undefined ? {} : { key }),
    ...(verify === false ? { rejectUnauthorized: false } : {}),
  } as Parameters<typeof buildConnector>[0];
}

/** undici's own connector, with a look at when the name was found, the connection made and TLS agreed on. */
export function watchedConnector(connecting: Connecting, connection: ConnectionOptions): Connect {
  const { to } = connection;
  const elsewhere = to && 'host' in to ? to : undefined;
  // The exchange's own timer ends connecting; undici's would be coarser.
  const connect = buildConnector({
    ...tlsOptions(connection),
    timeout: 0,
    ...(to && 'socket' in to ? { socketPath: to.socket } : {}),
    ...(connection.http2 ? { allowH2: true } : {}),
  } as Parameters<typeof buildConnector>[0]);
  return (options, callback) => {
    const times: ConnectionTimes = { started: performance.now() };
    connecting.times = times;
    connecting.phase = 'lookup';
    // The name of the URL stays that of TLS: the package takes it from `host`.
    const at = elsewhere ? { hostname: elsewhere.host, port: String(elsewhere.port ?? options.port) } : {};
    const socket = connect({ ...options, ...at }, callback) as unknown as Socket | undefined;
    socket?.once('lookup', () => {
      times.looked = performance.now();
      connecting.phase = 'connect';
    });
    socket?.once('connect', () => {
      times.connected = performance.now();
      connecting.phase = 'tls';
    });
    socket?.once('secureConnect', () => {
      times.secured = performance.now();
      const { alpnProtocol } = socket as TLSSocket;
      connecting.protocol = typeof alpnProtocol === 'string' ? alpnProtocol : undefined;
    });
    return socket as never;
  };
}
