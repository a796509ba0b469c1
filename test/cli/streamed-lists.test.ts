import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { useFolders, type Folder } from '../support/program.ts';

jest.setTimeout(120_000);

const MANY = 12_000;
const item = (i: number, more = '') =>
  JSON.stringify({ id: `KM ${i}/4`, number: i, remark: `"}],${'x'.repeat(400)}\\"`, tonnes: i / 4, more });

/** A long list in each form; what is asked for says what is wrong with it. */
const BODIES: Readonly<Record<string, readonly [type: string, text: (count: number, more: string) => string]>> = {
  '/ndjson': ['application/x-ndjson', (count, more) => lines(count, (i) => `${item(i, more)}\n`)],
  '/csv': ['text/csv', (count) => `id,number\r\n${lines(count, (i) => `"KM ${i}/4 ${'x'.repeat(400)}",${i}\r\n`)}`],
  '/list': ['application/json', (count, more) => `[${lines(count, (i) => (i ? ',\n' : '') + item(i, more))}]`],
  '/page': [
    'application/json; charset=utf-8',
    (count, more) =>
      `{"of":{"vessels":[1,"]"]},"n\\u0061mes":[{},{"vessels" : [\n${lines(count, (i) => (i ? ',' : '') + item(i, more))} ]}],"count":${count}}`,
  ],
  '/torn': ['application/x-ndjson', (count) => `${lines(count, (i) => `${item(i)}\n`)}{"id":`],
  '/other': ['application/json', (count) => `{"names":{"vessels":"${'x'.repeat(count * 500)}"}}`],
  '/open': ['application/json', (count) => `{"names":[0,{"vessels":[${lines(count, (i) => `${item(i)},`)}1]}`],
};
const lines = (count: number, line: (i: number) => string) => Array.from({ length: count }, (_, i) => line(i)).join('');

let asked: string[] = [];
const server = createServer((request: IncomingMessage, response: ServerResponse) => {
  const url = new URL(request.url!, 'http://harbour.example');
  asked.push(url.pathname);
  const [type, text] = BODIES[url.pathname] ?? ['application/json', () => '{}'];
  response.setHeader('Content-Type', type);
  response.end(text(Number(url.searchParams.get('count')), url.searchParams.get('more') ?? ''));
});
const folderWith = useFolders();

beforeAll(() => new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve)));
afterAll(() => new Promise((resolve) => server.close(resolve)));
beforeEach(() => (asked = []));

const CHAIN = (path: string, at: string, more = '') => `
name: vessels
api: harbour
inputs: { count: { type: integer, default: ${MANY} }, last: { type: integer, default: ${MANY - 1} } }
steps:
  - call: vessels
    request: GET ${path}?count={count}
    keep: { vessels: "${at}" }
${more}
  - each: vessel in vessels
    gather: { numbers: "{number(vessel.number)}" }
  - expect: ["numbers[-1] == last"]
  - expect: [length(numbers) == last + 1]
outputs: [numbers]
`;

function projectWith(chain: string): Folder {
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return folderWith({ 'batharon.yaml': `apis:\n  harbour: { url: "${url}" }\n`, 'v.chain.yaml': chain });
}

const FORMS = [
  ['/ndjson', '$'],
  ['/csv', '$'],
  ['/list', '$'],
  ['/page', '$.names[1].vessels'],
] as const;

test.each(FORMS)(
  '%s, kept as %s: a long list is gone over from the disk, a short one from memory',
  async (path, at) => {
    const folder = projectWith(CHAIN(path, at));
    const long = await folder.run(['run', 'v.chain.yaml']);
    expect([long.status, long.err]).toEqual([0, '']);
    expect(long.out).toMatch(/vessels: 12,000 items/);
    expect(folder.all().filter(([name]) => name.endsWith('response-1.ndjson')).length).toBe(1);
    const [events] = folder.journals();
    expect(events!.find(({ type }) => type === 'answered')).toMatchObject({ body: { dropped: 'streamed' } });
    const short = await folder.run(['run', 'v.chain.yaml', '--input', 'count=5', '--input', 'last=4']);
    expect([short.status, short.err]).toEqual([0, '']);
    expect(folder.all().filter(([name]) => name.includes('response-')).length).toBe(1);
  },
);

test.each([FORMS[0], FORMS[3]])(
  '%s: what was received is not asked for again when the run resumes, or is rehearsed',
  async (path, at) => {
    const folder = projectWith(CHAIN(path, at));
    const failed = await folder.run(['run', 'v.chain.yaml', '--input', 'last=3']);
    expect(failed.status).toBe(1);
    const resumed = await folder.run(['resume', '--input', `last=${MANY - 1}`]);
    expect([resumed.status, resumed.err]).toEqual([0, '']);
    const rehearsed = await folder.run(['rehearse', 'v.chain.yaml', '--input', `last=${MANY - 1}`]);
    expect([rehearsed.status, asked]).toEqual([0, [path]]);
  },
);

test('a list whose lines are gone is asked for again', async () => {
  const folder = projectWith(CHAIN('/ndjson', '$'));
  await folder.run(['run', 'v.chain.yaml', '--input', 'last=3']);
  const [name] = folder.all().find(([each]) => each.endsWith('response-1.ndjson'))!;
  folder.write(name, '');
  const resumed = await folder.run(['resume', '--input', `last=${MANY - 1}`]);
  expect([resumed.status, asked]).toEqual([0, ['/ndjson', '/ndjson']]);
});

test.each([
  ['/torn', '$', /cannot be read as NDJSON: .*in line 12001/],
  ['/other', '$.names.vessels', /cannot be read as JSON: it has no array there/],
  ['/open', '$.names[1].vessels', /cannot be read as JSON: the text ends before it is complete/],
])('%s: what is no list there fails its call and says why', async (path, at, why) => {
  const { status, out } = await projectWith(CHAIN(path, at)).run(['run', 'v.chain.yaml']);
  expect(out.replace(/\s+/g, ' ')).toMatch(why);
  expect(status).toBe(3);
});

test('a body of which something else is read is held whole', async () => {
  const folder = projectWith(CHAIN('/list', '$', '    expect: [length($) > 3]'));
  const { status } = await folder.run(['run', 'v.chain.yaml']);
  expect([status, folder.all().some(([name]) => name.includes('response-'))]).toEqual([0, false]);
});

test('items that hold a secret are masked in the lines, and seen whole by the loop', async () => {
  const secret = 'canary-5db1c7';
  const chain = CHAIN('/ndjson', '$').replace('count={count}', 'count={count}&more={secret.MORE}');
  const folder = projectWith(
    chain.replace('number(vessel.number)', 'length(vessel.more) - 13 + number(vessel.number)'),
  );
  folder.write('secrets.env', `MORE=${secret}\n`);
  const { out } = await folder.run(['run', 'v.chain.yaml']);
  expect(out).toContain('passed');
  const told = folder.all().filter(([name, text]) => name !== 'secrets.env' && text.includes(secret));
  expect(told).toEqual([]);
});
