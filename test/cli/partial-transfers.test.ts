import { createHash } from 'node:crypto';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { useFolders } from '../support/program.ts';

const folderWith = useFolders();
const FILE = Buffer.from(Array.from({ length: 300_000 }, (_, i) => (i * 7) % 251));
const HALF = 120_000;

type Answer = (request: IncomingMessage, response: ServerResponse) => void;

describe('a saved body whose transfer breaks off', () => {
  let server: Server;
  let answers: Answer[] = [];
  const asked: (string | undefined)[][] = [];
  beforeAll(async () => {
    server = createServer((request, response) => {
      const { range, 'if-range': ifRange } = request.headers;
      asked.push([range, ifRange as string | undefined]);
      answers[Math.min(asked.length, answers.length) - 1]!(request, response);
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  });
  beforeEach(() => void asked.splice(0));
  afterAll(() => void server.close());

  /** Half of the file, and then no connection. */
  const broken =
    (headers: Record<string, string>): Answer =>
    (_request, response) => {
      response.writeHead(200, { 'content-length': FILE.length, ...headers });
      response.write(FILE.subarray(0, HALF), () => setTimeout(() => response.destroy(), 50));
    };
  const whole: Answer = (_request, response) => void response.writeHead(200, { etag: '"b"' }).end(FILE);
  const part =
    (from: number, said = from): Answer =>
    (_request, response) =>
      void response
        .writeHead(206, { etag: '"a"', 'content-range': `bytes ${said}-${FILE.length - 1}/${FILE.length}` })
        .end(FILE.subarray(from));
  const status =
    (code: number): Answer =>
    (_request, response) =>
      void response.writeHead(code, { 'content-type': 'text/plain' }).end('no such chart');

  async function saved() {
    const { port } = server.address() as AddressInfo;
    const at = folderWith({
      'batharon.yaml': `apis:\n  a:\n    url: http://127.0.0.1:${port}\n    retry: { tries: 4, wait: 1ms to 2ms }\n`,
      'c.chain.yaml':
        'api: a\nsteps:\n  - call: fetch\n    request: GET /chart\n    save: out.bin\n    keep: { hash: $.sha256, size: $.size, code: status }\n  - say: "{size} {hash} {code}"\n',
    });
    const run = await at.run(['run', 'c.chain.yaml']);
    return { run, at, file: run.status === 0 ? readFileSync(path.join(at.path, 'out.bin')) : undefined };
  }

  const REST = [`bytes=${HALF}-`, '"a"'];
  test.each([
    ['the rest is asked for, of the same', [broken({ etag: '"a"' }), part(HALF)], [[undefined, undefined], REST]],
    ['a server that ignores Range sends all again', [broken({ etag: '"a"' }), whole], [[undefined, undefined], REST]],
    [
      'a part that begins elsewhere is not put behind what came',
      [broken({ etag: '"a"' }), part(5), whole],
      [[undefined, undefined], REST, [undefined, undefined]],
    ],
    [
      'a range that is refused is not asked for again',
      [broken({ etag: '"a"' }), status(416), whole],
      [[undefined, undefined], REST, [undefined, undefined]],
    ],
    [
      'an error between leaves what came',
      [broken({ etag: '"a"' }), status(503), part(HALF)],
      [[undefined, undefined], REST, REST],
    ],
    ...[{ etag: 'W/"a"' }, {}, { etag: '"a"', 'accept-ranges': 'none' }].map(
      (headers) =>
        [
          `nothing says that the rest would be of the same: ${JSON.stringify(headers)}`,
          [broken(headers as Record<string, string>), whole],
          [
            [undefined, undefined],
            [undefined, undefined],
          ],
        ] as const,
    ),
  ] as const)('%s', async (_name, given, wanted) => {
    answers = [...given];
    const { run, file } = await saved();
    expect(run.status).toBe(0);
    expect(file!.equals(FILE)).toBe(true);
    expect(asked).toEqual(wanted);
    expect(run.out).toContain(`300000 ${createHash('sha256').update(FILE).digest('hex')} 200`);
  });

  test('an error response behind a part is shown as what it is, and no file is placed', async () => {
    answers = [broken({ etag: '"a"' }), status(403)];
    const { run, at } = await saved();
    expect(run.status).toBe(1);
    expect(run.all).toContain('403');
    expect(() => readFileSync(path.join(at.path, 'out.bin'))).toThrow('ENOENT');
    expect((await at.run(['look'])).out).toContain('no such chart');
  });

  test('a record of a continued transfer is judged again as it was', async () => {
    answers = [broken({ etag: '"a"' }), part(HALF)];
    const { at } = await saved();
    expect((await at.run(['rehearse', 'c.chain.yaml'])).status).toBe(0);
    expect((await at.run(['look'])).out).toContain(`Range: bytes=${HALF}-`);
  });
});
