import { statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { KEY, projectFile, SECRETS, TOKEN, useHarbour } from '../support/harbour.ts';
import { testWith } from '../support/needs.ts';
import { inTerminal, useFolders } from '../support/program.ts';

const harbour = useHarbour();
const folderWith = useFolders();

describe('changes', () => {
  const guarded = (how: string) =>
    folderWith({
      'batharon.yaml': projectFile(harbour()).replace('      sandbox:\n', `      sandbox:\n        changes: ${how}\n`),
      'secrets.env': SECRETS,
      'a.chain.yaml':
        'api: harbour\nsteps:\n  - call: berths\n    request: GET /berths\n  - call: book\n    request: POST /berths\n    json: { name: N 9, depth: 7, quay: N }\n',
    });

  test('nothing of a chain that changes something is sent to a guarded deployment', async () => {
    const place = guarded('when-allowed');
    const { status, err } = await place.run(['run', 'a.chain.yaml']);
    expect([status, err]).toEqual([2, expect.stringContaining('To allow it: --allow-changes sandbox')]);
    expect(place.journals()).toEqual([]);
  });

  test.each([['sandbox'], ['harbour=sandbox']])('%s allows it by name', async (name) => {
    expect((await guarded('when-allowed').run(['run', 'a.chain.yaml', '--allow-changes', name])).status).toBe(0);
  });

  test('another name does not, and never is never', async () => {
    expect((await guarded('when-allowed').run(['run', 'a.chain.yaml', '--allow-changes', 'live'])).status).toBe(2);
    expect((await guarded('never').run(['run', 'a.chain.yaml', '--allow-changes', 'sandbox'])).err).toContain(
      'changes: never',
    );
  });

  test('send is guarded too, and a POST that only reads says so', async () => {
    const place = guarded('when-allowed');
    expect((await place.run(['send', 'DELETE', '/berths/N1', '--api', 'harbour'])).err).toContain('change-not-allowed');
    place.write(
      'b.chain.yaml',
      'api: harbour\nsteps:\n  - call: search\n    request: POST /berths\n    changes: false\n    repeatable: true\n    json: { name: N 8, depth: 7, quay: N }\n',
    );
    expect((await place.run(['run', 'b.chain.yaml'])).status).toBe(0);
    expect(
      place
        .journals()
        .at(-1)!
        .find(({ type }) => type === 'sent'),
    ).toMatchObject({ changing: false, repeatable: true, flushed: false });
  });
});

describe('secrets', () => {
  const project = (files: Readonly<Record<string, string>> = {}) =>
    folderWith({ 'batharon.yaml': projectFile(harbour()), ...files });

  test('are listed with who asks for them and where they are, never with a value', async () => {
    const place = project({
      'secrets.env': `HARBOUR_KEY=${KEY}\n`,
      'a.chain.yaml':
        'api: watch\nsteps:\n  - call: a\n    request: GET /water\n    headers: { X-Pin: "{secret.PIN}" }\n',
    });
    writeFileSync(path.join(place.path, 'pin'), 'hush-hush-3\n');
    const { status, out } = await place.run(['secrets'], { env: { PIN_FILE: path.join(place.path, 'pin') } });
    expect(status).toBe(2);
    expect(out).toMatch(/HARBOUR_TOKEN +missing +for harbour at sandbox, harbour at live/);
    expect(out).toMatch(/HARBOUR_KEY +in secrets\.env +for watch/);
    expect(out).toMatch(/PIN +in the file of PIN_FILE +for a\.chain\.yaml/);
    expect(out).not.toMatch(/hush|outer-mole/);
    expect((await place.run(['secrets'], { env: { PIN: 'x', HARBOUR_TOKEN: 'y' } })).status).toBe(0);
  });

  test('set writes one from standard input, keeps the others, and the file is its owner’s alone', async () => {
    const place = project({ 'secrets.env': '# mine\nOTHER=1' });
    expect((await place.run(['secrets', 'set', 'HARBOUR_TOKEN'], { input: `${TOKEN}\n` })).status).toBe(0);
    await place.run(['secrets', 'set', 'HARBOUR_KEY'], { input: `it's "odd" #1` });
    await place.run(['secrets', 'set', 'OTHER'], { input: '2' });
    expect(place.read('secrets.env')).toBe(`# mine\nOTHER=2\nHARBOUR_TOKEN=${TOKEN}\nHARBOUR_KEY=\`it's "odd" #1\`\n`);
    expect(statSync(path.join(place.path, 'secrets.env')).mode & 0o777).toBe(0o600);
    place.write('a.chain.yaml', 'api: harbour\nsteps:\n  - call: a\n    request: GET /berths\n');
    expect((await place.run(['run', 'a.chain.yaml'])).status).toBe(0);
  });

  testWith(['script'], 'set asks on a terminal without echo', async () => {
    const place = project();
    const screen = await inTerminal(place, ['secrets', 'set', 'HARBOUR_TOKEN'], [['? HARBOUR_TOKEN', 'hush-hush-4']]);
    expect(screen).not.toContain('hush-hush-4');
    expect(place.read('secrets.env')).toBe('HARBOUR_TOKEN=hush-hush-4\n');
  });

  test.each([[['secrets', 'set']], [['secrets', 'set', 'a-b']], [['secrets', 'set', 'A']]])(
    '%j is refused',
    async (args) => {
      expect((await project().run(args)).status).toBe(2);
    },
  );
});

test('basic credentials are sent encoded and recorded masked', async () => {
  const place = folderWith({
    'batharon.yaml': `apis:\n  a:\n    url: ${harbour().url}/v1\n    auth: { basic: { user: pilot, password: "{secret.PASSWORD}" } }\n`,
    'secrets.env': 'PASSWORD=hush-hush-5\n',
    'a.chain.yaml': 'steps:\n  - call: a\n    request: GET /berths\n    expect: [status == 401]\n',
  });
  expect((await place.run(['run', 'a.chain.yaml'])).status).toBe(0);
  expect(place.journals()[0]!.find(({ type }) => type === 'sent')).toMatchObject({
    request: { headers: expect.arrayContaining([['Authorization', 'Basic pilot:‹PASSWORD›']]) },
  });
  for (const [name, text] of place.all()) if (name !== 'secrets.env') expect(text).not.toMatch(/hush|cGlsb3Q6/);
});
