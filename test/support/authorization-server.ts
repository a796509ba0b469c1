import { spawn, type ChildProcess } from 'node:child_process';
import { generateKeyPairSync } from 'node:crypto';
import path from 'node:path';

/** A real authorization server (oidc-provider) with some clients, and an API behind it; and the key of the client `desk-jwt`. */
export type AuthorizationServer = Readonly<{
  url: string;
  privateKey: string;
  counts(): Promise<Readonly<{ token: number; api: number; refused: number }>>;
}>;

/** Open while the tests of a file run; `life` is that of its tokens in seconds. */
export function useAuthorizationServer(life = 3600): () => AuthorizationServer {
  let child: ChildProcess;
  let url = '';
  const { privateKey, publicKey } = generateKeyPairSync('ec', { namedCurve: 'P-256' });
  beforeAll(async () => {
    const publicJwk = { ...publicKey.export({ format: 'jwk' }), kid: 'desk-key', use: 'sig', alg: 'ES256' };
    const script = path.join(__dirname, 'authorization-server.mjs');
    // Newer than the Node that a test may try: this server has its own requirements.
    const node = process.env['BATHARON_HELPER_NODE'] ?? process.execPath;
    child = spawn(node, [script, JSON.stringify({ publicJwk, life })], {
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    url = await new Promise<string>((resolve) => {
      child.stdout!.on('data', (data: Buffer) => {
        const found = /http:\/\/\S+/.exec(String(data));
        if (found) resolve(found[0]);
      });
    });
  });
  afterAll(() => void child.kill());
  return () => ({
    url,
    privateKey: privateKey.export({ type: 'pkcs8', format: 'pem' }).toString(),
    counts: async () => (await fetch(`${url}/counts`)).json() as never,
  });
}
