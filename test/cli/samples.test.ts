import { execFile } from 'node:child_process';
import { createServer, type IncomingMessage } from 'node:http';
import { connect, type AddressInfo } from 'node:net';
import { promisify } from 'node:util';
import { useFolders } from '../support/program.ts';
import { SAMPLES, type SampleCase } from '../support/samples.ts';

const folderWith = useFolders();
const execute = promisify(execFile);

type Received = Readonly<{ method: string; target: string; headers: Record<string, string>; body: string }>;

/** What every program adds by itself, and how a message is carried. */
const OF_PROGRAMS =
  /^(?:host|user-agent|accept-encoding|connection|content-length|transfer-encoding|accept-language|sec-.*|keep-alive|origin|referer|dnt|pragma|cache-control|priority)$/;

let received: Received[] = [];
const server = createServer((request: IncomingMessage, response) => {
  const chunks: Buffer[] = [];
  request.on('data', (chunk: Buffer) => chunks.push(chunk));
  request.on('end', () => {
    const headers = Object.entries(request.headers).filter(
      ([name, value]) => !OF_PROGRAMS.test(name) && !(name === 'accept' && value === '*/*'),
    );
    received.push({
      method: request.method!,
      target: request.url!.replace(`http://${host}`, ''),
      headers: Object.fromEntries(headers.map(([name, value]) => [name, String(value)])),
      body: Buffer.concat(chunks).toString(),
    });
    response.setHeader('Content-Type', 'application/json').end('{"id":"vessel-204518","n":1}');
  });
});
let host = '';

beforeAll(async () => {
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  host = `127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => void server.close());

/** Sends a sample as its own program does, or says what a capture holds. */
async function sendItself({ form, text }: SampleCase): Promise<void> {
  const own = text.replaceAll('HOST', host);
  if (form === 'curl') await execute('bash', ['-c', own.replace(/^\s*[$%>] /gm, '')]);
  else if (form === 'fetch')
    await execute(process.execPath, ['--input-type=module', '-e', own.replace(/^```\w*$/gm, '')]);
  else if (form === 'http') for (const message of own.split('\n\n\n')) await sendMessage(message);
  else received.push(...entriesOf(own));
}

/** A message as it is printed, with CRLF and the length of its body. */
function sendMessage(text: string): Promise<void> {
  const [head = '', ...rest] = text.trim().split('\n\n');
  const body = rest.join('\n\n');
  const lines = head.split('\n').map((line, i) => (i === 0 && !/HTTP\//.test(line) ? `${line} HTTP/1.1` : line));
  const length = body === '' || /content-length/i.test(head) ? [] : [`Content-Length: ${Buffer.byteLength(body)}`];
  const hosted = /^host:/im.test(head) ? [] : [`Host: ${host}`];
  return new Promise((resolve, reject) => {
    const socket = connect({ host: '127.0.0.1', port: Number(host.split(':')[1]) }, () =>
      socket.write(`${[...lines, ...hosted, ...length, 'Connection: close'].join('\r\n')}\r\n\r\n${body}`),
    );
    socket
      .on('close', () => resolve())
      .on('error', reject)
      .resume();
  });
}

type HarEntry = Readonly<{
  request: Readonly<{
    method: string;
    url: string;
    headers: readonly Readonly<{ name: string; value: string }>[];
    postData?: Readonly<{ text: string }>;
  }>;
}>;

function entriesOf(text: string): readonly Received[] {
  const { log } = JSON.parse(text) as { log: { entries: readonly HarEntry[] } };
  return log.entries
    .filter(({ request }) => !/\.(?:js|png|html)$/.test(request.url) && request.method !== 'OPTIONS')
    .map(({ request: { method, url, headers, postData } }) => ({
      method,
      target: url.slice(url.indexOf(host) + host.length),
      headers: Object.fromEntries(
        headers
          .map(({ name, value }) => [name.toLowerCase(), value] as const)
          .filter(([name]) => !OF_PROGRAMS.test(name) && !name.startsWith(':')),
      ),
      body: postData?.text ?? '',
    }));
}

/** JSON may differ in white space. */
function comparable(all: readonly Received[]): readonly Received[] {
  return all.map((each) => ({
    ...each,
    body: /json/.test(each.headers['content-type'] ?? '')
      ? each.body.replace(/("(?:[^"\\]|\\.)*")|\s+/g, '$1')
      : each.body,
  }));
}

test.each(SAMPLES.map((each) => [each.form, each.what, each] as const))('%s: %s', async (_form, _what, sample) => {
  received = [];
  await sendItself(sample);
  const itself = comparable(received);
  const folder = folderWith();
  const drafted = await folder.run(['draft', '--into', 'chains/c.chain.yaml'], {
    input: sample.text.replaceAll('HOST', host),
  });
  expect({ ...drafted, status: drafted.status }).toEqual({ ...drafted, status: 0 });
  const checked = await folder.run(['check']);
  expect([checked.status, checked.out]).toEqual([0, expect.stringMatching(/^no problems found/)]);
  received = [];
  const ran = await folder.run(['run', 'chains/c.chain.yaml', ...(sample.inputs ?? [])]);
  expect(ran.all).toContain('passed');
  const expected = sample.differs ? itself.map((each, i) => ({ ...each, ...sample.differs![i] })) : itself;
  expect(comparable(received)).toEqual(expected);
  for (const [name, text] of folder.all()) if (name !== 'secrets.env') expect(text).not.toContain('canary');
  for (const line of sample.said ?? []) expect(drafted.all).toContain(line);
});
