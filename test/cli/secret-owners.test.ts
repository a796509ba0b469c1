import { createServer, type IncomingMessage, type Server } from 'node:http';
import { useFolders } from '../support/program.ts';

/** Two servers, each an api of the project, that keep what they get, and a third that is none. */
const folderWith = useFolders();
const got: IncomingMessage[][] = [[], [], []];
let servers: Server[] = [];
let ports: number[] = [];

beforeAll(async () => {
  servers = got.map((list) =>
    createServer((request, response) => {
      list.push(request);
      response.setHeader('Set-Cookie', 'sid=coo-kie-12345678');
      response.setHeader('Content-Type', 'application/json').end('{"token": "giv-en-12345678", "berth": "N1"}');
    }),
  );
  for (const server of servers) await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  ports = servers.map((server) => (server.address() as { port: number }).port);
});
afterAll(() => servers.forEach((server) => server.close()));
beforeEach(() => got.forEach((list) => list.splice(0)));

const folder = (steps: string, head = '') =>
  folderWith({
    'batharon.yaml': `apis:
  harbour: { url: "http://127.0.0.1:${ports[0]}", headers: { X-Key: "{secret.KEY}" } }
  office: { url: "http://127.0.0.1:${ports[1]}" }
`,
    'secrets.env': 'KEY=the-key-12345678\nLOOSE=loo-se-12345678\n',
    'other.chain.yaml':
      'api: office\ninputs: { k: string }\nsteps:\n  - call: b\n    request: GET /b\n    headers: { X-B: "{k}" }\n',
    'gives.chain.yaml': 'steps: [say: x]\noutputs: { k: secret.KEY }\n',
    'a.chain.yaml': `api: harbour\n${head}steps:\n${steps.replaceAll('ELSEWHERE', `http://127.0.0.1:${ports[2]}`)}`,
  });

const call = (api: string, value: string, more = '') =>
  `  - call: b\n    api: ${api}\n    request: GET /b\n    headers: { X-B: "${value}" }\n${more}`;
const first = (keep: string) => `  - call: a\n    request: GET /a\n    keep: { k: "${keep}" }\n`;

// What a value is made of follows it through names, functions, loops, rounds, inputs and used chains.
const LEAKING: [what: string, steps: string, head?: string][] = [
  ['a key as it is', call('office', '{secret.KEY}')],
  ['a name', `  - let: { k: secret.KEY }\n${call('office', '{k}')}`],
  ['a mark over it', `  - let: { k: secret(secret.KEY) }\n${call('office', '{k}')}`],
  ['a mark that names the other', `  - let: { k: "secret(secret.KEY, 'office')" }\n${call('office', '{k}')}`],
  ['a key behind another secret', `  - let: { k: "joined([secret.LOOSE, secret.KEY], '')" }\n${call('office', '{k}')}`],
  ['a second placeholder', call('office', '{secret.LOOSE}{secret.KEY}')],
  ['a function', `  - let: { k: base64(secret.KEY) }\n${call('office', '{k}')}`],
  ['the default of an input', call('office', '{k}'), 'inputs: { k: { type: string, default: "{secret.KEY}" } }\n'],
  [
    'a default of a default',
    call('office', '{m}'),
    'inputs: { k: { type: string, default: "{secret.KEY}" }, m: { type: string, default: "{k}" } }\n',
  ],
  [
    'the default of a secret input',
    call('office', '{k}'),
    'inputs: { k: { type: secret, default: "{secret.KEY}" } }\n',
  ],
  ['an item', `  - each: k in [secret.KEY]\n    steps:\n${call('office', '{k}').replace(/^/gm, '    ')}`],
  ['what is given to a used chain', '  - chain: other.chain.yaml\n    inputs: { k: "{secret.KEY}" }\n'],
  [
    'what is gathered',
    `  - each: n in [1]\n    gather: { k: "{secret.KEY}" }\n    steps: [say: "{n}"]\n${call('office', '{k}')}`,
  ],
  ['what a used chain gives', `  - chain: gives.chain.yaml\n    keep: { k: outputs.k }\n${call('office', '{k}')}`],
  ['a credential of the call', call('office', 'x', '    auth: { bearer: "{secret.KEY}" }\n')],
  ['a body', call('office', 'x', '    json: { k: "{secret.KEY}" }\n').replace('GET', 'POST')],
  ['a query', call('office', 'x', '    query: { k: "{secret.KEY}" }\n')],
  ['a marked value', `${first('secret($.token)')}${call('office', '{k}')}`],
  ['a cookie', `${first('cookies.sid')}${call('office', '{k}')}`],
  ['a marked value under a second name', `${first('secret($.token)')}  - let: { m: k }\n${call('office', '{m}')}`],
  [
    'a marked value, to no api',
    `${first("secret($.token, 'office')")}${call('office', '{k}')
      .replace('/b', 'ELSEWHERE/b')
      .replace(/ {4}api.*\n/, '')}`,
  ],
];

test.each(LEAKING.map(([what, ...rest]) => [what, rest] as const))('%s goes to no other api', async (_what, rest) => {
  const place = folder(...rest);
  const { err, out, status } = await place.run(['run', 'a.chain.yaml']);
  expect([out + err, status]).toEqual([expect.stringContaining('secret-leaves-api'), 1]);
  expect(got.slice(1).flat().length).toBe(0);
});

const MAY: [what: string, steps: string][] = [
  ['a key to its own api', call('harbour', '{secret.KEY}')],
  ['a secret that is nobody’s', call('office', '{secret.LOOSE}')],
  ['a marked value back to its api', `${first('secret($.token)')}${call('harbour', '{k}')}`],
  ['a marked value to the api named with it', `${first("secret($.token, 'office')")}${call('office', '{k}')}`],
  ['what the chain made', `  - let: { k: secret(uuid()) }\n${call('office', '{k}')}`],
  ['a value that is not marked', `${first('$.berth')}${call('office', '{k}')}`],
];

test.each(MAY)('%s may be sent', async (_what, steps) => {
  const place = folder(steps);
  const { err, out, status } = await place.run(['run', 'a.chain.yaml']);
  expect([out + err, status]).toEqual([expect.anything(), 0]);
});

test('what a server that is no api gave goes back to it', async () => {
  const whole = first('secret($.token)').replace('/a', 'ELSEWHERE/a');
  const back = call('', '{k}')
    .replace(' /b', ' ELSEWHERE/b')
    .replace(/ {4}api.*\n/, '');
  const { status } = await folder(whole + back).run(['run', 'a.chain.yaml']);
  expect([status, got[2]!.length]).toEqual([0, 2]);
  const led = await folder(whole + call('office', '{k}')).run(['run', 'a.chain.yaml']);
  expect([led.out, led.status]).toEqual([expect.stringContaining('secret-leaves-api'), 1]);
});

test.each([
  ["secret($.token, 'ofice')", 'error unknown-api', 'Did you mean "office"?'],
  ['secret($.token, $.berth)', 'error wrong-argument', "secret(x, 'NAME')"],
  ['secret($.token, 3)', 'error wrong-argument', ''],
])('%s is refused', async (keep, code, advice) => {
  const { out, err, status } = await folder(first(keep) + call('harbour', '{k}')).run(['check']);
  expect([out + err, status]).toEqual([expect.stringContaining(code), 2]);
  expect(out + err).toContain(advice);
});

const setting = [
  [['KEY'], 'It belongs to harbour.', ''],
  [['HOOK'], 'It belongs to office, as batharon.yaml now says', 'secrets:\n  HOOK: [office]\n'],
  [['OTHER'], 'It belongs to no API yet: batharon secrets set OTHER --for NAME', ''],
  [['OTHER', '--for', 'office', '--for', 'harbour'], 'office and harbour', 'secrets:\n  OTHER: [office, harbour]\n'],
  [['OTHER', '--for', 'ofice'], 'Did you mean "office"?', ''],
] as const;

test.each(setting)('secrets set %j says whose it is, and the project file keeps it', async (args, said, added) => {
  const place = folder(call('office', '{secret.HOOK}'));
  const before = place.read('batharon.yaml');
  const { all } = await place.run(['secrets', 'set', ...args], { input: 'a-value-12345678' });
  expect(all).toContain(said);
  expect(place.read('batharon.yaml')).toBe(before + added);
  if (added) expect((await place.run(['secrets'])).out).toMatch(new RegExp(`${args[0]} +in secrets.env +for `));
});

test.each([
  ['an ordinary word', 'Harbour', true],
  ['a plain text of a file', 'berth-7', true],
  ['a key that was pasted into a file', 'k3y0f7he9sL4rT1zQ', false],
  ['a plain text of no file', 'berth-8', false],
])('%s as a secret', async (_what, secret, isCommon) => {
  const place = folder(
    `  - say: "x berth-7 k3y0f7he9sL4rT1zQ {t} x"\n${call('harbour', 'x')}`,
    'inputs: { t: string }\n',
  );
  place.write('secrets.env', `KEY=${secret}\n`);
  const { out, err, status } = await place.run(['run', 'a.chain.yaml', '--input', `t=${secret}`]);
  expect(status).toBe(0);
  expect(err.includes('warning secret-is-common')).toBe(isCommon);
  expect(out.includes('‹KEY›')).toBe(!isCommon);
  // Where it is sent it is masked all the same.
  expect(JSON.stringify(place.journals())).toContain('["X-Key","‹KEY›"]');
});

test('a declared secret of the environment is masked although nothing reads it', async () => {
  const place = folder('  - say: "x {t} x"\n', 'inputs: { t: string }\n');
  place.write('batharon.yaml', `${place.read('batharon.yaml')}secrets: { HOOK: [office] }\n`);
  const { out } = await place.run(['run', 'a.chain.yaml', '--input', 't=a-value-12345678'], {
    env: { HOOK: 'a-value-12345678' },
  });
  expect(out).toContain('x ‹HOOK› x');
});

test('a call without the credential of its api does not ask for it', async () => {
  const place = folderWith({
    'batharon.yaml': `apis:\n  harbour: { url: "http://127.0.0.1:${ports[0]}", auth: { bearer: "{secret.NOT_THERE}" } }\n`,
    'open.chain.yaml': 'steps:\n  - call: a\n    request: GET /a\n    auth: none\n',
    'shut.chain.yaml': 'steps:\n  - call: a\n    request: GET /a\n    auth: none\n  - call: b\n    request: GET /b\n',
  });
  expect(await place.run(['run', 'open.chain.yaml'])).toMatchObject({ status: 0 });
  expect(await place.run(['run', 'shut.chain.yaml'])).toMatchObject({
    status: 2,
    err: expect.stringContaining('secret-missing'),
  });
});
