import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { describeWith } from '../support/needs.ts';
import { useFolders, type Folder } from '../support/program.ts';

const folderWith = useFolders();
const NAME = 'quay.harbour.example';

async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  await new Promise((resolve) => server.close(resolve));
  return port;
}

describeWith(['nginx', 'openssl'], 'where a request connects to', () => {
  let nginx: ChildProcess;
  let at: Folder;
  let port = 0;

  beforeAll(async () => {
    at = folderWith({
      'c.chain.yaml':
        'api: quay\nsteps: [{ call: one, request: GET /berths, keep: { host: $.host } }]\noutputs: [host]\n',
    });
    port = await freePort();
    execFileSync(
      'openssl',
      `req -x509 -newkey rsa:2048 -nodes -keyout key.pem -out ca.pem -days 2 -subj /CN=${NAME} -addext subjectAltName=DNS:${NAME}`.split(
        ' ',
      ),
      { cwd: at.path, stdio: 'ignore' },
    );
    const server = (listen: string) =>
      `server { ${listen} location / { default_type application/json; return 200 '{"host": "$http_host", "tls": "$ssl_server_name"}'; } }`;
    const tls = `ssl_certificate ${at.path}/ca.pem; ssl_certificate_key ${at.path}/key.pem;`;
    at.write(
      'nginx.conf',
      `daemon off; pid ${at.path}/nginx.pid; error_log ${at.path}/error.log; events {}
http { access_log off; ${['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi'].map((each) => `${each}_temp_path ${at.path}/${each};`).join(' ')}
${server(`listen 127.0.0.1:${port} ssl; ${tls}`)}
${server(`listen unix:${at.path}/plain.sock;`)}
${server(`listen unix:${at.path}/tls.sock ssl; ${tls}`)} }
`,
    );
    nginx = spawn('/usr/sbin/nginx', ['-c', path.join(at.path, 'nginx.conf'), '-p', at.path], { stdio: 'ignore' });
    for (let i = 0; i < 300 && !at.has('tls.sock'); i++) await new Promise((resolve) => setTimeout(resolve, 20));
  });
  afterAll(() => void nginx.kill());

  function run(url: string, keys: string) {
    at.write('batharon.yaml', `apis:\n  quay:\n    url: ${url}\n${keys.replace(/^(?=.)/gm, '    ')}\n`);
    return at.run(['run', 'c.chain.yaml', '--out', '-'], { columns: 200, env: { HTTPS_PROXY: 'http://127.0.0.1:1' } });
  }
  const CA = '\ntls: { ca: ca.pem }';

  test.each([
    [
      'a host and a port, with TLS to the name of the URL',
      `https://${NAME}`,
      () => `connect-to: 127.0.0.1:${port}${CA}`,
    ],
    ['a port of the URL', `https://${NAME}:PORT`, () => `connect-to: 127.0.0.1${CA}`],
    ['a setting', `https://${NAME}`, () => `connect-to: '{setting.at}:${port}'\nsettings: { at: 127.0.0.1 }${CA}`],
    ['a socket', `http://${NAME}`, () => `unix: ${at.path}/plain.sock`],
    ['a socket with TLS', `https://${NAME}`, () => `unix: ${at.path}/tls.sock${CA}`],
  ])('%s', async (_what, url, keys) => {
    const { status, out, all } = await run(url.replace('PORT', String(port)), keys());
    expect([status, all]).toEqual([0, expect.anything()]);
    expect(JSON.parse(out)).toEqual({ host: NAME + (url.includes('PORT') ? `:${port}` : '') });
  });

  test.each([
    [
      'a socket that is not there',
      'http://x.example',
      () => `unix: ${at.path}/none.sock`,
      3,
      /There is no socket at the path under unix/,
    ],
    [
      'another name in the certificate',
      'https://other.example',
      () => `connect-to: 127.0.0.1:${port}${CA}`,
      3,
      /for another host name: it has DNS:quay/,
    ],
    ['nothing that listens', `https://${NAME}`, () => 'connect-to: 127.0.0.1:1', 3, /Nothing is listening there/],
    [
      'no host and port',
      `https://${NAME}`,
      () => 'connect-to: http://127.0.0.1:1',
      2,
      /connect-to takes a host and a port, not "http:/,
    ],
    [
      'a relative path',
      `http://${NAME}`,
      () => 'unix: here.sock',
      2,
      /unix takes the absolute path of a socket, not "here.sock"/,
    ],
    [
      'both',
      `http://${NAME}`,
      () => 'unix: /a.sock\nconnect-to: 127.0.0.1:1',
      2,
      /keys-clash: connect-to and unix are two ways/,
    ],
    [
      'beside a proxy',
      `http://${NAME}`,
      () => 'proxy: http://127.0.0.1:1\nunix: /a.sock',
      2,
      /keys-clash: unix and proxy are two ways/,
    ],
  ])('%s', async (_what, url, keys, status, message) => {
    const outcome = await run(url, keys());
    expect([outcome.status, outcome.all]).toEqual([status, expect.stringMatching(message)]);
  });

  test('secrets that go elsewhere are told of', async () => {
    at.write('secrets.env', 'KEY=k-4711-abcdef\n');
    const auth = '\nauth: { bearer: "{secret.KEY}" }';
    const { err } = await run('http://127.0.0.1:1', `connect-to: harbour.example:1${auth}`);
    expect(err).toContain('http://127.0.0.1:1 is connected to at harbour.example:1');
    // What a setting stands for is agreed to, and not its name.
    const keys = `connect-to: '{setting.at}:1'\nsettings: { at: quay.example }${auth}`;
    expect((await run('http://127.0.0.1:1', keys)).err).toContain('is connected to at quay.example:1');
  });
});
