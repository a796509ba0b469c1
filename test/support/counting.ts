import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { useFolders, type Folder } from './program.ts';

/** A server that counts what it has answered, and can keep silent. */
export type Counting = {
  server: Server;
  url: string;
  posts: string[];
  keys: Map<string, string[]>;
  silent: boolean;
  status: number;
};

/** A server for each test of a file, and projects whose api it is. */
export function useCounting(): Readonly<{ counting: Counting; projectWith(chain: string): Folder }> {
  const folderWith = useFolders();
  const counting = {} as Counting;
  beforeEach(async () => {
    Object.assign(counting, { posts: [], keys: new Map(), silent: false, status: 200 });
    counting.server = createServer((request, response) => {
      const { method = '', url = '' } = request;
      let body = '';
      request.on('data', (chunk: Buffer) => (body += chunk.toString()));
      request.on('end', () => {
        if (counting.silent) return;
        const key = request.headers['idempotency-key'] as string | undefined;
        if (key !== undefined) counting.keys.set(url, [...(counting.keys.get(url) ?? []), key]);
        setTimeout(() => {
          if (response.destroyed) return;
          if (method === 'POST') counting.posts.push(url);
          response.statusCode = counting.status;
          response.setHeader('Content-Type', 'application/json').end(JSON.stringify({ id: url.slice(1), body }));
        }, 3);
      });
    });
    await new Promise<void>((resolve) => counting.server.listen(0, '127.0.0.1', resolve));
    counting.url = `http://127.0.0.1:${(counting.server.address() as AddressInfo).port}`;
  });
  afterEach(() => {
    counting.server.closeAllConnections();
    counting.server.close();
  });
  return {
    counting,
    projectWith: (chain) =>
      folderWith({
        'batharon.yaml': `apis:\n  a: { url: "${counting.url}" }\n`,
        'c.chain.yaml': `name: c\napi: a\n${chain}`,
      }),
  };
}
