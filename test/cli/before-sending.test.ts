import { useDemo } from '../support/harbour.ts';
import { describeWith } from '../support/needs.ts';
import { inTerminal, useFolders } from '../support/program.ts';

const demo = useDemo();
const folderWith = useFolders();

test('preview shows requests with what is known, and sends nothing; after a run the values of that run', async () => {
  const folder = demo();
  const before = await folder.run(['preview', 'chains/berth.chain.yaml', '--input', 'day=2026-05-24']);
  expect(before.status).toBe(0);
  expect(before.out).toContain('/v1/arrivals?day=2026-05-24&state=expected');
  expect(before.out).toContain('/v1/vessels/{due[0].vessel}');
  expect(before.out).toContain('Authorization: Bearer ‹HARBOUR_TOKEN›');
  expect(before.out).toMatch(/free\[0\]\.id +not known yet +kept by berths from/);
  expect(folder.journals()).toEqual([]);
  await folder.run(['run', 'chains/berth.chain.yaml']);
  const json = await folder.run(['preview', 'chains/berth.chain.yaml', '--only', 'reserve', '--as', 'json']);
  const [call] = JSON.parse(json.out) as { request: { url: string; body: string }; origins: { from: string }[] }[];
  expect(call!.request.url).toMatch(/\/v1\/berths\/[NSW]\d\/reservations$/);
  expect(JSON.parse(call!.request.body)).toMatchObject({ note: 'due 2026-05-23' });
  expect(call!.origins[0]!.from).toMatch(/as in run \d{4}-\d{4}-/);
  const curl = await folder.run(['preview', 'chains/berth.chain.yaml', '--only', 'reserve', '--as', 'curl']);
  expect(curl.out).toContain(`-H 'Authorization: Bearer '"$HARBOUR_TOKEN"`);
});

test('preview: requests of chains that are used, and a URL that is not known brings no credential', async () => {
  const folder = folderWith({
    'batharon.yaml':
      'apis:\n  yard: { url: "http://127.0.0.1:1/v1", headers: { X-Yard: "7" }, auth: { bearer: "{secret.KEY}" } }\n',
    'secrets.env': 'KEY=k-kvitnes-4711\n',
    'c.chain.yaml':
      'api: yard\ninputs: { day: { type: string, default: "05-23" } }\nsteps:\n  - call: ask\n    request: GET /ask\n    keep: { link: $.link }\n' +
      '  - call: follow\n    request: GET {link}\n  - chain: used.chain.yaml\n    inputs: { day: "{day}", link: "{link}" }\n',
    'used.chain.yaml':
      'name: used\napi: yard\ninputs: { day: string, link: string, quay: { type: string, default: N } }\nsteps:\n  - call: berths\n    request: GET /berths{?day,link,quay}\n',
  });
  const { status, out } = await folder.run(['preview', 'c.chain.yaml']);
  expect(status).toBe(0);
  const [ask = '', follow = '', berths = ''] = out.split(/\n(?=follow|berths)/);
  expect(ask).toContain('Authorization: Bearer ‹KEY›');
  expect(follow).toContain('GET {link}');
  expect(follow).not.toMatch(/Authorization|X-Yard|127\.0\.0\.1/);
  expect(follow).toContain('Headers and credentials of yard are added if the URL is on its server.');
  expect(berths).toMatch(/^berths +yard +in the chain used/);
  expect(berths).toContain('GET http://127.0.0.1:1/v1/berths?day=05-23&link={link}&quay=N');
});

test.each([
  [['preview', 'chains/berth.chain.yaml', '--only', 'reserv'], 'Did you mean "reserve"?'],
  [['preview', 'mistakes/mistakes.yaml'], 'nothing to show'],
  [['sign-in'], 'several APIs, and none was specified'],
  [['sign-in', 'harbor'], 'Did you mean "harbour"?'],
  [['run', 'chains/berth.chain.yaml', '--ask'], 'needs-terminal'],
  [['look', '--paths'], 'Nothing is recorded here yet'],
])('%j says what is wrong', async (args, words) => {
  const run = await demo().run(args);
  expect(run.all).toContain(words);
  expect(run.status).toBe(2);
});

test('look: the path of each value, the origin of each value sent, a line for each exchange', async () => {
  const folder = demo();
  await folder.run(['run', 'chains/papers.chain.yaml']);
  const paths = await folder.run(['look', 'dues', '--paths']);
  expect(paths.out).toMatch(/^\$\.dues\[0\]\.vessel +'KM 204\/5'$/m);
  const origins = await folder.run(['look', 'hand-in', '--origins']);
  expect(origins.out).toMatch(/heaviest\.goods +'.*' +kept by cargo from first/);
  const tries = await folder.run(['look', 'owners']);
  expect(tries.out).toMatch(/1 {2}GET .*401 Unauthorized.*\n {2}2 {2}GET .*200 OK/);
  const xml = await folder.run(['look', 'tides', '--paths']);
  expect(xml.out).toMatch(/^\/tides\/tide\[1\]\/\*\[local-name\(\)='height'\] +'\d/m);
});

describeWith(['script'], '--ask', () => {
  test.each([
    ['send it', 'passed', 201],
    ['skip it', 'skipped: you chose to skip it', undefined],
    ['stop here', 'interrupted', undefined],
  ])('%s', async (answer, words, status) => {
    const folder = demo();
    const down = { 'send it': 0, 'skip it': 1, 'stop here': 3 }[answer]!;
    const screen = await inTerminal(
      folder,
      ['run', 'chains/berth.chain.yaml', '--ask'],
      [['What should happen to reserve?', '\u001b[B'.repeat(down)]],
    );
    expect(screen).toContain('POST http');
    expect(screen).toContain(words);
    const answered = folder
      .journals()[0]!
      .filter(({ type }) => type === 'answered')
      .map((event) => event['status']);
    expect(answered).toEqual(status === undefined ? [200, 200, 200] : [200, 200, 200, status]);
  });
});

test('send: bodies as options, files wherever they are, a response saved', async () => {
  const folder = demo();
  const elsewhere = folderWith({ 'order.json': '{"cargo": "salt", "n": 1.10}', 'list.csv': 'a,b\n1,2\n' });
  const sizeOf = async (...args: readonly string[]) => {
    const run = await folder.run(['send', 'POST', '/documents', '--api', 'harbour', ...args]);
    return JSON.parse(run.out) as { size: number; type: string };
  };
  expect(await sizeOf('--file', `${elsewhere.path}/list.csv`)).toMatchObject({ size: 8, type: 'text/csv' });
  expect(await sizeOf('--json-file', `${elsewhere.path}/order.json`, '--set', '$.cargo=fish')).toMatchObject({
    size: 28,
  });
  expect(await sizeOf('--text', 'hello', '--type', 'text/markdown')).toMatchObject({ size: 5, type: 'text/markdown' });
  expect(await sizeOf('--xml', '<a/>')).toMatchObject({ size: 4 });
  const form = await sizeOf(
    '--multipart',
    'title=x',
    '--multipart',
    `list=@${elsewhere.path}/list.csv;type=text/plain`,
  );
  expect(form.type).toMatch(/^multipart\/form-data; boundary=/);
  const saved = await folder.run(['send', 'GET', '/soundings/N1', '--api', 'harbour', '--save', 'chart.png']);
  expect(saved.status).toBe(0);
  expect(folder.all().find(([name]) => name === 'chart.png')![1]).toMatch(/^\u0089PNG/);
});

test('a sign-in chain is found wrong where it is used wrongly, and can be run alone', async () => {
  const folder = demo();
  const alone = await folder.run(['run', 'chains/sign-in.chain.yaml']);
  expect(alone.all).toContain('session: ‹session›');
  const explained = await folder.run(['sign-in', 'gate']);
  expect(explained.out).toMatch(/gate {3}chain {3}GATE_PASSWORD from secrets\.env/);
  expect(explained.out).toContain('valid for    10 min');
});
