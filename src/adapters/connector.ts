import buildConnector from 'undici/lib/core/connect.js';
import type { Socket } from 'node:net';
import type { Phase } from '../core/http/message.ts';

/** When a connection got how far, by the monotonic clock. */
export type ConnectionTimes = { started: number; looked?: number; connected?: number; secured?: number };

/** The connection that an exchange waits for, or waited for last: its times and the phase that it is in. */
export type Connecting = { times: ConnectionTimes | undefined; phase: Phase };

type Connect = ReturnType<typeof buildConnector>;

/** undici's own connector, with a look at when the name was found, the connection made and TLS agreed on. */
export function watchedConnector(connecting: Connecting): Connect {
  // The exchange's own timer ends connecting; undici's would be coarser.
  const connect = buildConnector({ timeout: 0, minVersion: 'TLSv1.2' } as Parameters<typeof buildConnector>[0]);
  return (options, callback) => {
    const times: ConnectionTimes = { started: performance.now() };
    connecting.times = times;
    connecting.phase = 'lookup';
    const socket = connect(options, callback) as unknown as Socket | undefined;
    socket?.once('lookup', () => {
      times.looked = performance.now();
      connecting.phase = 'connect';
    });
    socket?.once('connect', () => {
      times.connected = performance.now();
      connecting.phase = 'tls';
    });
    socket?.once('secureConnect', () => (times.secured = performance.now()));
    return socket as never;
  };
}
