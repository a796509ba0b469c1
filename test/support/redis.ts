import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, connect, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Redis } from 'ioredis';

/** A real Redis on a free port, with a folder of its own. */
export type TestRedis = Readonly<{
  url: string;
  port: number;
  folder: string;
  client(): Redis;
  stop(signal?: NodeJS.Signals): Promise<void>;
  start(...more: readonly string[]): Promise<void>;
  close(): Promise<void>;
}>;

export async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  await new Promise((resolve) => server.close(resolve));
  return port;
}

/** Starts it, keeping what it is told on its disk unless said otherwise. */
export async function startRedis(...options: readonly string[]): Promise<TestRedis> {
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-redis-'));
  const port = await freePort();
  let server: ChildProcess | undefined;
  const clients: Redis[] = [];
  const start = async (...more: readonly string[]): Promise<void> => {
    const kept = ['--save', '', '--appendonly', 'yes', '--appendfsync', 'everysec', '--dir', folder];
    const args = ['--port', String(port), '--bind', '127.0.0.1', ...kept, ...options, ...more];
    server = spawn('redis-server', args, { stdio: 'ignore' });
    for (;;) {
      const socket = connect(port, '127.0.0.1');
      const isOpen = await new Promise((resolve) =>
        socket.once('connect', () => resolve(true)).once('error', () => resolve(false)),
      );
      socket.destroy();
      if (isOpen) return;
      await new Promise((resolve) => setTimeout(resolve, 10));
    }
  };
  const stop = async (signal: NodeJS.Signals = 'SIGKILL'): Promise<void> => {
    if (!server || server.exitCode !== null || server.signalCode !== null) return;
    const ended = once(server, 'exit');
    server.kill(signal);
    if (signal !== 'SIGSTOP') await ended;
  };
  await start();
  return {
    url: `redis://127.0.0.1:${port}`,
    port,
    folder,
    client: () => {
      const client = new Redis(port, '127.0.0.1', { maxRetriesPerRequest: 1 });
      client.on('error', () => {});
      clients.push(client);
      return client;
    },
    start,
    stop,
    close: async () => {
      for (const client of clients) client.disconnect();
      await stop();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
