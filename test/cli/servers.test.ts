import { describeWith } from '../support/needs.ts';
import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { createServer as createPlainServer, request as forward, type IncomingMessage, type Server } from 'node:http';
import { createSecureServer } from 'node:http2';
import { createServer as createTlsServer } from 'node:https';
import { connect, type AddressInfo } from 'node:net';
import { gzipSync } from 'node:zlib';
import path from 'node:path';
import { useFolders, type Folder } from '../support/program.ts';

const folderWith = useFolders();
const closing: (() => void)[] = [];
afterAll(() => closing.forEach((close) => close()));

/** Opens a server on the loopback address; it is closed when the tests are done. */
async function open(server: Server, scheme = 'http'): Promise<string> {
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  closing.push(() => {
    server.close();
    server.closeAllConnections?.();
  });
  return `${scheme}://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

const chainOf = (steps: string) => `api: yard\nsteps:\n${steps.replace(/^(?=.)/gm, '  ')}\n`;
const projectOf = (url: string, more = '') => `apis:\n  yard:\n    url: ${url}\n${more.replace(/^(?=.)/gm, '    ')}\n`;

describeWith(['lighttpd'], 'digest against lighttpd', () => {
  let child: ChildProcess;
  let port = 0;
  let folder: Folder;
  beforeAll(async () => {
    folder = folderWith();
    const probe = createPlainServer();
    port = Number(new URL(await open(probe)).port);
    await new Promise((resolve) => probe.close(resolve));
    mkdirSync(path.join(folder.path, 'www/logs'), { recursive: true });
    writeFileSync(path.join(folder.path, 'www/logs/day.json'), '{"vessels": 3}');
    folder.write('users', 'pilot:quay:fog-horn 77\n');
    folder.write(
      'lighttpd.conf',
      `server.document-root = "${folder.path}/www"
server.port = ${port}
server.bind = "127.0.0.1"
server.modules = ("mod_auth", "mod_authn_file")
auth.backend = "htdigest"
auth.backend.htdigest.userfile = "${folder.path}/htdigest"
auth.require = ("" => ("method" => "digest", "realm" => "quay", "require" => "valid-user"))
mimetype.assign = (".json" => "application/json")
`,
    );
    const hash = createHash('md5').update('pilot:quay:fog-horn 77').digest('hex');
    folder.write('htdigest', `pilot:quay:${hash}\n`);
    child = spawn('/usr/sbin/lighttpd', ['-D', '-f', path.join(folder.path, 'lighttpd.conf')], { stdio: 'ignore' });
    for (let i = 0; i < 600; i++) {
      const isOpen = await new Promise((resolve) => {
        const socket = connect(port, '127.0.0.1', () => (socket.end(), resolve(true)));
        socket.on('error', () => resolve(false));
      });
      if (isOpen) return;
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
  });
  afterAll(() => void child.kill());

  test.each([
    ['the right password', 'fog-horn 77', 0, 3],
    ['another one', 'fog horn 77', 1, 2],
  ])('%s', async (_name, password, status, requests) => {
    folder.write('secrets.env', `PASSWORD="${password}"\n`);
    folder.write(
      'batharon.yaml',
      projectOf(`http://127.0.0.1:${port}`, 'auth:\n  digest: { user: pilot, password: "{secret.PASSWORD}" }'),
    );
    folder.write(
      'c.chain.yaml',
      chainOf('- call: first\n  request: GET /logs/day.json\n- call: second\n  request: GET /logs/day.json?a=b,c\n'),
    );
    const run = await folder.run(['run', 'c.chain.yaml']);
    expect(run.all.includes('not-authorized')).toBe(status === 1);
    expect(run.status).toBe(status);
    expect(run.all).toContain(`; ${requests} requests in`);
  });
});

describeWith(['openssl'], 'TLS', () => {
  let certificates: Folder;
  const name = (file: string) => path.join(certificates.path, file);
  const openssl = (...args: readonly string[]) =>
    execFileSync('openssl', args, { stdio: 'ignore', cwd: certificates.path });
  beforeAll(() => {
    certificates = folderWith({ 'san.cnf': 'subjectAltName=IP:127.0.0.1\n' });
    openssl(
      'req',
      '-x509',
      '-newkey',
      'rsa:2048',
      '-nodes',
      '-keyout',
      'ca.key',
      '-out',
      'ca.pem',
      '-days',
      '2',
      '-subj',
      '/CN=yard authority',
    );
    for (const who of ['server', 'client']) {
      openssl(
        'req',
        '-newkey',
        'rsa:2048',
        '-nodes',
        '-keyout',
        `${who}.key`,
        '-out',
        `${who}.csr`,
        '-subj',
        `/CN=${who}`,
      );
      openssl(
        'x509',
        '-req',
        '-in',
        `${who}.csr`,
        '-CA',
        'ca.pem',
        '-CAkey',
        'ca.key',
        '-CAcreateserial',
        '-out',
        `${who}.pem`,
        '-days',
        '2',
        '-extfile',
        'san.cnf',
      );
    }
  });
  const read = (file: string) => certificates.read(file);
  const keys = () => ({ key: read('server.key'), cert: read('server.pem') });
  const run = async (url: string, tls: string) => {
    const folder = folderWith({
      'batharon.yaml': projectOf(url, tls),
      'c.chain.yaml': chainOf('- call: a\n  request: GET /\n  keep: { who: $.who }\n'),
    });
    return { ...(await folder.run(['run', 'c.chain.yaml'])), folder };
  };

  test('an authority of its own, a certificate of the client, and none verified with a warning', async () => {
    const server = createTlsServer(
      { ...keys(), ca: read('ca.pem'), requestCert: true, rejectUnauthorized: false },
      (request, response) => {
        const { CN } =
          (request.socket as unknown as { getPeerCertificate(): { subject?: { CN?: string } } }).getPeerCertificate()
            .subject ?? {};
        response.setHeader('Content-Type', 'application/json').end(JSON.stringify({ who: CN ?? 'nobody' }));
      },
    );
    const url = await open(server as never, 'https');
    const refused = await run(url, '');
    expect(refused.status).toBe(3);
    expect(refused.all.replace(/\s+/g, ' ')).toMatch(
      /no-connection: .*self-signed.* Trust its authority: tls: {ca: FILE}, under \w+ \(batharon\.yaml:\d+\)\./,
    );
    const other = await run(url, `tls: { ca: ${name('server.pem')} }`);
    expect(other.all.replace(/\s+/g, ' ')).toMatch(/FILE} that signed it; \S*server\.pem did not, under/);
    const named = await run(url.replace('127.0.0.1', 'localhost'), `tls: { ca: ${name('ca.pem')} }`);
    expect(named.all.replace(/\s+/g, ' ')).toMatch(
      /for another host name: it has IP Address:127\.0\.0\.1 .*Write one of its names as the host in url, under/,
    );
    const none = await run(url, `tls: { ca: ${name('server.key')} }`);
    expect([none.status, none.all]).toEqual([2, expect.stringContaining('holds no PEM text of a certificate')]);
    const trusted = await run(url, `tls: { ca: ${name('ca.pem')} }`);
    expect(trusted.all).toContain("who: 'nobody'");
    const known = await run(
      url,
      `tls: { ca: ${name('ca.pem')}, cert: ${name('client.pem')}, key: ${name('client.key')} }`,
    );
    expect(known.all).toContain("who: 'client'");
    const unverified = await run(url, 'tls: { verify: false }');
    expect([unverified.status, unverified.all.includes('warning not-verified')]).toEqual([0, true]);
  });

  test('HTTP/2 where it is asked for', async () => {
    const server = createSecureServer({ ...keys(), allowHTTP1: true }, (request, response) => {
      response.setHeader('Content-Type', 'application/json');
      response.end(JSON.stringify({ who: request.httpVersion }));
    });
    const url = await open(server as never, 'https');
    const two = await run(url, `http2: true\ntls: { ca: ${name('ca.pem')} }`);
    expect(two.all).toContain("who: '2.0'");
    expect(two.folder.journals()[0]!.find(({ type }) => type === 'answered')).toMatchObject({ http: 'HTTP/2' });
    expect((await run(url, `tls: { ca: ${name('ca.pem')} }`)).all).toContain("who: '1.1'");
  });

  test('a proxy: asked for plain http, a tunnel for https, passed over by NO_PROXY and proxy: none', async () => {
    const asked: string[] = [];
    const proxy = createPlainServer((request, response) => {
      asked.push(`${request.method} ${request.url} ${request.headers['proxy-authorization'] ?? ''}`.trim());
      forward(request.url!, (from) => from.pipe(response.writeHead(from.statusCode!, from.headers))).end();
    });
    proxy.on('connect', (request, socket) => {
      asked.push(`CONNECT ${request.url}`);
      const { hostname, port } = new URL(`http://${request.url}`);
      const through = connect(Number(port), hostname, () => {
        socket.write('HTTP/1.1 200 OK\r\n\r\n');
        through.pipe(socket).pipe(through);
      });
      for (const each of [socket, through]) each.on('error', () => {});
    });
    const at = new URL(await open(proxy)).host;
    const answer = (
      _request: IncomingMessage,
      response: { end(text: string): void; setHeader(name: string, value: string): unknown },
    ) => {
      response.setHeader('Content-Type', 'application/json');
      response.end('{"who": "origin"}');
    };
    const plain = await open(createPlainServer(answer as never));
    const secure = await open(createTlsServer(keys(), answer as never) as never, 'https');
    const through = async (url: string, more: string, env: Record<string, string>) => {
      const folder = folderWith({
        'batharon.yaml': projectOf(url, more),
        'c.chain.yaml': chainOf('- call: a\n  request: GET /x\n  keep: { who: $.who }\n'),
      });
      const { all } = await folder.run(['run', 'c.chain.yaml'], { env });
      expect(all).toContain("who: 'origin'");
      return asked.splice(0);
    };
    const ca = `tls: { ca: ${name('ca.pem')} }`;
    expect(await through(plain, '', { HTTP_PROXY: `http://crew:se%40cret@${at}` })).toEqual([
      `GET ${plain}/x Basic ${Buffer.from('crew:se@cret').toString('base64')}`,
    ]);
    expect(await through(secure, ca, { HTTPS_PROXY: `http://${at}` })).toEqual([`CONNECT ${new URL(secure).host}`]);
    expect(await through(plain, '', { HTTP_PROXY: `http://${at}`, NO_PROXY: 'localhost, 127.0.0.1' })).toEqual([]);
    expect(await through(plain, 'proxy: none', { HTTP_PROXY: `http://${at}` })).toEqual([]);
    expect(await through(plain, `proxy: http://${at}`, {})).toEqual([`GET ${plain}/x`]);
  });
});

describe('bodies that are not held', () => {
  test('a file is sent and saved piece by piece, by little memory; an unwanted response touches no file', async () => {
    const size = 64 * 1024 * 1024;
    const server = createPlainServer(async (request, response) => {
      if (request.method === 'PUT') {
        const hash = createHash('sha256');
        for await (const chunk of request) hash.update(chunk as Buffer);
        return response
          .setHeader('Content-Type', 'application/json')
          .end(JSON.stringify({ sha256: hash.digest('hex') }));
      }
      if (request.url === '/missing') return response.writeHead(404).end('nothing here');
      if (request.url === '/packed')
        return response.writeHead(200, { 'Content-Encoding': 'gzip' }).end(gzipSync('unpacked'));
      response.writeHead(200, { 'Content-Type': 'application/octet-stream' });
      for (let i = 0; i < 64; i++)
        if (!response.write(Buffer.alloc(1024 * 1024, i)))
          await new Promise((resolve) => response.once('drain', resolve));
      response.end();
    });
    // However long the digest of the file takes, the connection stays.
    server.keepAliveTimeout = 120_000;
    const url = await open(server);
    const folder = folderWith({
      'batharon.yaml': projectOf(url),
      'c.chain.yaml': chainOf(
        `- call: fetch\n  request: GET /big\n  save: out/big.bin\n  expect: [$.size == ${size}]\n  keep: { hash: $.sha256 }\n- call: bring\n  request: PUT /big\n  file: out/big.bin\n  expect: [$.sha256 == hash]\n- call: packed\n  request: GET /packed\n  save: out/packed.txt\n- call: missing\n  request: GET /missing\n  save: out/missing.txt\n`,
      ),
    });
    const run = await folder.run(['run', 'c.chain.yaml']);
    expect(run.all).toMatch(/response body\s+nothing here/);
    expect(run.all).toMatch(/saved {3}out\/big\.bin {3}67 MB/);
    expect(run.status).toBe(1);
    expect(folder.read('out/packed.txt')).toBe('unpacked');
    expect(folder.has('out/missing.txt')).toBe(false);
    expect(folder.all().filter(([name]) => name.endsWith('.part'))).toEqual([]);
  });

  test('a connection that breaks off leaves no half a file; file outside the project is refused', async () => {
    const server = createPlainServer((_request, response) => {
      response.writeHead(200, { 'Content-Length': '1000' });
      response.write('begun', () => response.destroy());
    });
    const folder = folderWith({
      'batharon.yaml': projectOf(await open(server)),
      'c.chain.yaml': chainOf('- call: a\n  request: GET /\n  save: out.bin\n'),
      'd.chain.yaml': chainOf('- call: a\n  request: GET /\n  save: ../out.bin\n'),
    });
    const run = await folder.run(['run', 'c.chain.yaml']);
    expect(run.status).toBe(3);
    expect(folder.all().map(([name]) => name)).not.toContain('out.bin');
    expect(folder.all().filter(([name]) => name.includes('.part'))).toEqual([]);
    expect((await folder.run(['run', 'd.chain.yaml'])).all).toContain('error outside-project');
  });

  test('events are listened to until one fits, and then no longer', async () => {
    let closed = 0;
    const server = createPlainServer((_request, response) => {
      response.writeHead(200, { 'Content-Type': 'text/event-stream' });
      let n = 0;
      const timer = setInterval(() => response.write(`event: tick\ndata: {"n": ${++n}}\n\n`), 5);
      response.on('close', () => (closed++, clearInterval(timer)));
    });
    const folder = folderWith({
      'batharon.yaml': projectOf(await open(server)),
      'c.chain.yaml': chainOf(
        `- call: until\n  request: GET /\n  until-event: $[-1].data.n == 5\n  keep: { last: "$[-1].data.n", all: length($) }\n- call: most\n  request: GET /\n  until-event: { until: '$[-1].data.n == 0', max-events: 3 }\n  keep: { some: length($) }\n- call: within\n  request: GET /\n  until-event: { until: '$[-1].data.n == 0', within: 100ms }\n  expect: [length($) > 2]\n`,
      ),
    });
    const run = await folder.run(['run', 'c.chain.yaml']);
    expect(run.all).toMatch(/last: 5, all: 5/);
    expect(run.all).toContain('some: 3');
    expect([run.status, closed]).toEqual([0, 3]);
  });
});

test('cookies go with the calls that follow, to where they belong, and are in no record', async () => {
  const seen: (string | undefined)[] = [];
  const server = createPlainServer((request, response) => {
    seen.push(request.headers.cookie);
    if (request.url === '/in')
      response.setHeader('Set-Cookie', ['sid=kvitnes-crumb-1; Path=/', 'deep=x; Path=/deep', 'gone=1; Max-Age=0']);
    response.setHeader('Content-Type', 'application/json').end('{}');
  });
  const other = createPlainServer((request, response) => {
    seen.push(`elsewhere ${request.headers.cookie}`);
    response.end();
  });
  const elsewhere = await open(other);
  const folder = folderWith({
    'batharon.yaml': projectOf(await open(server)),
    'c.chain.yaml': chainOf(
      `- call: in\n  request: GET /in\n- call: on\n  request: GET /on\n- call: deep\n  request: GET /deep/er\n- call: else\n  request: GET ${elsewhere}/\n`,
    ),
  });
  expect((await folder.run(['run', 'c.chain.yaml'])).status).toBe(0);
  expect(seen).toEqual([undefined, 'sid=kvitnes-crumb-1', 'deep=x; sid=kvitnes-crumb-1', 'elsewhere undefined']);
  for (const [, text] of folder.all()) expect(text).not.toContain('kvitnes-crumb');
});
