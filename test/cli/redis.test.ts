import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { connect, createServer, type Server } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { useCounting } from '../support/counting.ts';
import { describeWith } from '../support/needs.ts';
import type { Folder } from '../support/program.ts';
import { freePort, startRedis, type TestRedis } from '../support/redis.ts';

const { counting, projectWith } = useCounting();

const LOOP = `inputs: { count: { type: integer, default: 30 } }
steps:
  - each: n in range(count)
    concurrency: 4
    steps:
      - call: make
        request: POST /make/{n}
        json: { canary: 'body-canary-4711' }
        headers: { X-Key: '{secret.CANARY}' }
`;

describeWith(['redis-server'], 'limits that several machines share', () => {
  let redis: TestRedis;
  afterEach(() => redis.close());

  /** A project whose api is limited in a Redis. */
  function limited(rate: string, url = redis.url, more = ''): Folder {
    const folder = projectWith(LOOP);
    folder.write('secrets.env', 'CANARY=secret-canary-0815\n');
    const keys = `    rate-limit: ${rate}\n    max-wait: 2s\n${more}`;
    folder.write(
      'batharon.yaml',
      `redis: ${url}\napis:\n  a:\n    url: ${counting.url}\n${keys}secrets: { CANARY: [a] }\n`,
    );
    return folder;
  }

  /** Requests in any second, by when they were sent: how long the way takes on a busy machine says nothing about the limit. */
  function perSecond(...folders: readonly Folder[]): number {
    const events = folders.flatMap((folder) => folder.journals().flat());
    const at = events.flatMap((event) => (event.type === 'sent' ? [event.at as number] : []));
    return Math.max(...at.map((from) => at.filter((each) => each >= from && each < from + 1000).length));
  }

  test('two runs at once keep to one limit, and `limits` tells of both', async () => {
    redis = await startRedis();
    const [one, other] = [limited('10/s'), limited('10/s')];
    const runs = await Promise.all([one, other].map((folder) => folder.run(['run', 'c.chain.yaml'])));
    expect(runs.map(({ status }) => status)).toEqual([0, 0]);
    expect(counting.posts).toHaveLength(60);
    expect(perSecond(one, other)).toBeLessThanOrEqual(10);
    const limits = await one.run(['limits', '--as', 'json']);
    expect(JSON.parse(limits.out)).toMatchObject([{ name: 'a@', rate: '10/s' }]);
  });

  test('nothing of a run is in Redis but numbers and hashed names', async () => {
    redis = await startRedis();
    const watched: string[] = [];
    const monitor = await redis.client().monitor();
    monitor.on('monitor', (_time: string, args: string[]) => void watched.push(args.join(' ')));
    const folder = limited('[50/s, 1000/day]', redis.url, '    total-concurrency: 3\n');
    expect((await folder.run(['run', 'c.chain.yaml'])).status).toBe(0);
    monitor.disconnect();
    const files = readdirSync(redis.folder, { recursive: true, encoding: 'utf8' });
    const kept = files.flatMap((file) => {
      try {
        return [readFileSync(path.join(redis.folder, file), 'latin1')];
      } catch {
        return [];
      }
    });
    expect(watched.length).toBeGreaterThan(30);
    expect(kept.join('').length).toBeGreaterThan(1000);
    for (const canary of ['canary', '127.0.0.1', 'make', 'c.chain', 'CANARY'])
      expect([...watched, ...kept].filter((text) => text.includes(canary))).toEqual([]);
  });

  test.each<[string, readonly string[], RegExp]>([
    ['that asks for a password', ['--requirepass', 'kvitnes-pass'], /asks for a password/],
    ['that may evict', ['--maxmemory', '100mb', '--maxmemory-policy', 'allkeys-lru'], /may evict what it keeps/],
    ['that is out of memory', ['--maxmemory', '1'], /is out of memory/],
    ['that is a replica', ['--replicaof', '127.0.0.1', '1'], /is a replica/],
  ])('a Redis %s: the run pauses, says why, and goes on later', async (_what, options, says) => {
    redis = await startRedis(...options);
    const folder = limited('50/s');
    const run = await folder.run(['run', 'c.chain.yaml']);
    expect([run.status, run.all]).toEqual([3, expect.stringMatching(says)]);
    expect(counting.posts).toEqual([]);
    await redis.close();
    redis = await startRedis();
    const resumed = await folder.run(['resume'], { env: { BATHARON_REDIS: redis.url } });
    expect([resumed.status, counting.posts.length]).toEqual([0, 30]);
  });

  test('a wrong password, and a certificate that nobody trusts, are told as they are', async () => {
    const folder = mkdtempSync(path.join(tmpdir(), 'batharon-tls-'));
    const files = ['-keyout', `${folder}/key.pem`, '-out', `${folder}/cert.pem`];
    execFileSync(
      'openssl',
      [
        'req',
        '-x509',
        '-newkey',
        'rsa:2048',
        '-nodes',
        '-days',
        '2',
        '-subj',
        '/CN=localhost',
        '-addext',
        'subjectAltName=IP:127.0.0.1',
        ...files,
      ],
      { stdio: 'ignore' },
    );
    const port = await freePort();
    const tls = [
      '--tls-port',
      String(port),
      '--tls-auth-clients',
      'no',
      '--tls-cert-file',
      `${folder}/cert.pem`,
      '--tls-key-file',
      `${folder}/key.pem`,
    ];
    redis = await startRedis('--requirepass', 'kvitnes-pass', ...tls);
    const project = limited('50/s', `rediss://:{secret.CANARY}@127.0.0.1:${port}`);
    const untrusted = await project.run(['limits']);
    expect([untrusted.status, untrusted.all]).toEqual([
      3,
      expect.stringMatching(/certificate .* is not trusted.*NODE_EXTRA_CA_CERTS/s),
    ]);
    const trusting = { env: { NODE_EXTRA_CA_CERTS: `${folder}/cert.pem` } };
    const refused = await project.run(['run', 'c.chain.yaml'], trusting);
    expect([refused.status, refused.all]).toEqual([3, expect.stringMatching(/refuses the user name or password/)]);
    expect(refused.all).not.toContain('canary');
    project.write('secrets.env', 'CANARY=kvitnes-pass\n');
    expect((await project.run(['resume'], trusting)).status).toBe(0);
    rmSync(folder, { recursive: true });
  });

  test('a Redis that is gone for good: what was begun ends, the run pauses, and nothing is sent twice when it goes on', async () => {
    redis = await startRedis();
    const folder = limited('20/s');
    const run = folder.run(['run', 'c.chain.yaml']);
    while (counting.posts.length < 12) await new Promise((resolve) => setTimeout(resolve, 5));
    await redis.stop();
    const paused = await run;
    expect([paused.status, paused.all]).toEqual([3, expect.stringMatching(/cannot be reached.*batharon resume/s)]);
    await redis.start();
    expect((await folder.run(['resume'])).status).toBe(0);
    expect([...counting.posts].sort()).toEqual([...new Set(counting.posts)].sort());
    expect(counting.posts).toHaveLength(30);
  });

  test('a quota needs a Redis that keeps it', async () => {
    redis = await startRedis('--appendonly', 'no');
    const run = await limited('1000/day').run(['run', 'c.chain.yaml']);
    expect([run.status, run.all]).toEqual([3, expect.stringMatching(/keeps nothing on its disk.*appendonly yes/s)]);
  });

  test('a Redis that forgets when it restarts: a whole window is waited for, and the limit is kept', async () => {
    redis = await startRedis('--appendonly', 'no');
    const folder = limited('10/s');
    const run = folder.run(['run', 'c.chain.yaml']);
    while (counting.posts.length < 12) await new Promise((resolve) => setTimeout(resolve, 5));
    await redis.stop();
    await redis.start();
    expect((await run).status).toBe(0);
    expect(counting.posts).toHaveLength(30);
    expect(perSecond(folder)).toBeLessThanOrEqual(10);
  });

  test('a Redis that takes half a second for each answer is waited for', async () => {
    redis = await startRedis();
    const [slow, port] = await slowWay(redis.port, 250);
    const folder = limited('50/s', `redis://127.0.0.1:${port}`);
    const run = await folder.run(['run', 'c.chain.yaml', '--input', 'count=4']);
    slow.close();
    expect([run.status, counting.posts.length]).toEqual([0, 4]);
  });
});

/** A way to a port on which everything takes so many milliseconds longer, there and back. */
async function slowWay(to: number, ms: number): Promise<readonly [Server, number]> {
  const port = await freePort();
  const server = createServer((socket) => {
    const behind = connect(to, '127.0.0.1');
    const later = (from: typeof socket, into: typeof socket) => {
      from.on('data', (data) => setTimeout(() => into.write(data), ms));
      from.on('close', () => into.destroy()).on('error', () => {});
    };
    later(socket, behind);
    later(behind, socket);
  }).listen(port, '127.0.0.1');
  return [server, port];
}
