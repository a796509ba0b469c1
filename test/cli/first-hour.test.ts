import { TOKEN, useHarbour } from '../support/harbour.ts';
import { useFolders } from '../support/program.ts';

const harbour = useHarbour();
const folderWith = useFolders();

const sample = () => `curl -sS '${harbour().url}/v1/arrivals?day=2026-05-23&state=expected' \\
  -H 'Accept: application/json' \\
  -H 'Authorization: Bearer ${TOKEN}'`;

test('from an empty folder to a chain of two authenticated calls, in six commands and without an editor', async () => {
  const place = folderWith();
  const command = async (...args: readonly string[]) => {
    const result = await place.run(args);
    expect({ args, ...result, status: 0 }).toEqual({ args, ...result });
    return result.out;
  };
  await command('draft', sample(), '--api', 'harbour');
  await command('run', 'chains/arrivals.chain.yaml');
  const [first] = JSON.parse(await command('find', 'vessel', '--call', 'arrivals', '--as', 'json')) as {
    exact: string;
  }[];
  expect(first!.exact).toBe('$.arrivals[0].vessel');
  const vessel = (
    JSON.parse(
      await (
        await fetch(`${harbour().url}/v1/arrivals?day=2026-05-23&state=expected`, {
          headers: { Authorization: `Bearer ${TOKEN}` },
        })
      ).text(),
    ) as { arrivals: { vessel: string }[] }
  ).arrivals[0]!.vessel;
  await command('send', 'GET', `/vessels/${encodeURIComponent(vessel)}`);
  expect(await command('add', 'vessel', '--into', 'chains/arrivals.chain.yaml')).toContain(
    'linked: {vessel} (path behind vessels) is now kept: $.arrivals[0].vessel, by arrivals',
  );
  expect(await command('run', 'chains/arrivals.chain.yaml')).toContain('passed   2 calls, 2 expectations; ');
  expect(place.read('chains/arrivals.chain.yaml')).toBe(`# yaml-language-server: $schema=../schemas/chain.schema.json
api: harbour
inputs:
  day: { type: date, default: "2026-05-23" }

steps:
  - call: arrivals
    request: GET /arrivals
    query:
      day: "{day}"
      state: expected
    headers:
      Accept: application/json
    keep:
      vessel: $.arrivals[0].vessel
  - call: vessel
    request: GET /vessels/{vessel}
    expect:
      - status == 200
`);
  expect(place.read('secrets.env')).toBe(`HARBOUR_TOKEN=${TOKEN}\n`);
  for (const [name, text] of place.all()) if (name !== 'secrets.env') expect(text).not.toContain(TOKEN);
});

/** A sample in each form: what it asks for, with the token. */
const forms: Readonly<Record<string, (target: string) => string>> = {
  curl: (target) => `curl '${harbour().url}${target}' -H 'Authorization: Bearer ${TOKEN}'`,
  http: (target) => `GET ${target} HTTP/1.1\nHost: ${new URL(harbour().url).host}\nAuthorization: Bearer ${TOKEN}\n`,
  fetch: (target) =>
    `const token = '${TOKEN}';\nawait fetch('${harbour().url}${target}', { headers: { Authorization: \`Bearer \${token}\` } });`,
  har: (target) =>
    JSON.stringify({
      log: {
        entries: [
          {
            request: {
              method: 'GET',
              url: `${harbour().url}${target}`,
              headers: [{ name: 'Authorization', value: `Bearer ${TOKEN}` }],
            },
          },
        ],
      },
    }),
};

test.each(Object.keys(forms))(
  'from an empty folder to two authenticated, linked calls in four commands, from %s',
  async (form) => {
    const place = folderWith();
    const into = 'chains/vessel.chain.yaml';
    const sampleOf = forms[form]!;
    const list = await place.run(['draft', '--into', into, '--api', 'harbour'], {
      input: sampleOf('/v1/arrivals?day=2026-05-23&state=expected'),
    });
    expect(list.status).toBe(0);
    expect((await place.run(['run', into])).status).toBe(0);
    const vessel = JSON.parse((await place.run(['value', '$.arrivals[0].vessel', '--as', 'json'])).out) as string;
    const one = await place.run(['draft', '--into', into], {
      input: sampleOf(`/v1/vessels/${encodeURIComponent(vessel)}`),
    });
    expect(one.out).toContain('linked: {vessel}');
    expect((await place.run(['run', into])).out).toContain('passed   2 calls');
    for (const [name, text] of place.all()) if (name !== 'secrets.env') expect(text).not.toContain(TOKEN);
    expect((await place.run(['check'])).out).toMatch(/^no problems found/);
  },
  60_000,
);

test('add makes a project where there is none, and keeps no key', async () => {
  const place = folderWith();
  const { url } = harbour();
  await place.run(['send', '--curl', `curl '${url}/v1/berths?api_key=${TOKEN}' -H 'X-Pier: N'`]);
  const added = await place.run(['add', 'berths', '--into', 'chains/berths.chain.yaml']);
  expect(added).toMatchObject({ status: 0, err: '' });
  expect(place.read('chains/berths.chain.yaml')).toContain('call: berths');
  expect(place.read('batharon.yaml')).toContain(`url: ${url}/v1`);
  for (const [, text] of place.all()) expect(text).not.toContain(TOKEN);
});

test('a further API is added beside those that are there, and comments stay', async () => {
  const place = folderWith({
    'batharon.yaml': '# ours\napis:\n  harbour: # the port\n    url: https://harbour.example/v1\n\nzone: UTC\n',
  });
  const drafted = await place.run(['draft', `curl https://office.example/v2/notes -H 'X-Api-Key: kv-0123456789'`]);
  expect(drafted.out).toContain('api: office (https://office.example/v2) is in batharon.yaml');
  expect(place.read('batharon.yaml')).toBe(`# ours
apis:
  harbour: # the port
    url: https://harbour.example/v1
  office:
    url: https://office.example/v2
    auth: { api-key: { header: X-Api-Key, value: "{secret.OFFICE_API_KEY}" } }

zone: UTC
`);
  expect(place.read('secrets.env')).toBe('OFFICE_API_KEY=kv-0123456789\n');
});

test.each([
  ['a HAR without entries', '{"log": {}}', 'has no list of entries'],
  [
    'a capture of pages alone',
    JSON.stringify({
      log: { entries: [{ _resourceType: 'document', request: { method: 'GET', url: 'https://x.example/' } }] },
    }),
    'Left out: 1 pages',
  ],
  ['a message without a host', 'GET /a HTTP/1.1\nAccept: x', 'names no host'],
  ['a message with a broken header', 'GET /a HTTP/1.1\nHost: x.example\nwhat is this', 'A blank line stands between'],
  ['JavaScript that is none', "fetch('https://x.example/' +", 'it is no JavaScript'],
  ['a relative URL', "fetch('/a')", 'is relative to a page'],
  ['a quote that is not closed', "curl 'https://x", 'not closed'],
  ['prose', 'Call us, and we will tell you.', 'none of the forms'],
  ['signs that mark placeholders', 'curl https://x.example/\ue000secret.KEY\ue001', 'characters for private use'],
])('bad input: %s', async (_what, input, said) => {
  const place = folderWith();
  const { status, err } = await place.run(['draft'], { input });
  expect([status, err]).toEqual([2, expect.stringContaining(said)]);
  expect(place.all()).toEqual([]);
});

describe('send', () => {
  const project = async () => {
    const place = folderWith();
    await place.run(['draft', sample(), '--api', 'harbour']);
    return place;
  };

  test('--curl sends a sample, from the argument or standard input, and its key is in no record', async () => {
    const place = folderWith();
    const { status, out } = await place.run(['send', '--curl', sample()]);
    expect([status, JSON.parse(out)]).toEqual([0, expect.objectContaining({ day: '2026-05-23' })]);
    expect((await place.run(['send', '--curl'], { input: sample() })).status).toBe(0);
    for (const [, text] of place.all()) expect(text).not.toContain(TOKEN);
  });

  test.each([
    ["-u 'pilot:hush-hush-7'", 'cGlsb3Q6'],
    ["-H 'X-Api-Key: hush-hush-7'", ''],
    ["-H 'Authorization: Token hush-hush-7' -b 'session=hush-hush-7'", ''],
    ["-G -d 'api_key=hush-hush-7' -d 'api_key=hush-hush-77' -u 'a:hush-hush-8'", 'YTpodXNo'],
  ])('--curl with %s leaves no trace of the credentials', async (options, encoded) => {
    const place = folderWith();
    const { err } = await place.run(['send', '--curl', `curl ${options} ${harbour().url}/v1/berths`]);
    expect(err).toContain('401');
    for (const [, text] of place.all())
      expect(text).not.toMatch(encoded === '' ? /hush/ : new RegExp(`hush|${encoded}`));
  });

  test('placeholders see what the last run kept, and say so', async () => {
    const place = await project();
    await place.run(['run', 'chains/arrivals.chain.yaml']);
    await place.run([
      'find',
      'vessel',
      '--call',
      'arrivals',
      '--keep',
      'first_vessel',
      '--into',
      'chains/arrivals.chain.yaml',
    ]);
    await place.run(['run', 'chains/arrivals.chain.yaml']);
    const { status, err, out } = await place.run(['send', 'GET', '/vessels/{first_vessel}']);
    expect([status, err]).toEqual([0, expect.stringMatching(/^first_vessel is '.*', from run /)]);
    expect(JSON.parse(out)).toHaveProperty('draught');
  });

  test('--form sends fields', async () => {
    const place = await project();
    await place.run(['send', 'POST', '/berths', '--form', 'name=N 9', '--form', 'depth=7']);
    const sent = place
      .journals()
      .at(-1)!
      .find(({ type }) => type === 'sent') as { request: { body: { text: string } } };
    expect(sent.request.body.text).toBe('name=N+9&depth=7');
  });

  test('export curl gives the request back, secrets as variables', async () => {
    const place = await project();
    await place.run(['send', 'POST', '/berths', '--json', `{"note": "it's"}`]);
    const { out } = await place.run(['export', 'curl']);
    expect(out).toContain('curl -X POST');
    expect(out).toContain(`-H 'Authorization: Bearer '"$HARBOUR_TOKEN"`);
    expect(out).toContain(`--data-raw '{"note":"it'\\''s"}'`);
    expect(out).not.toContain(TOKEN);
  });
});

describe('add', () => {
  test('keeps numbers as they were sent, and gives names to what earlier responses held, whatever calls are called', async () => {
    const place = folderWith();
    await place.run(['draft', sample(), '--api', 'harbour', '--name', 'due (first']);
    const [[file]] = place.all().filter(([name]) => name.endsWith('.chain.yaml')) as [[string, string]];
    const { out: given } = await place.run(['run', file, '--out', '-']);
    expect(given).toBe('{}\n');
    const vessel =
      (JSON.parse((await place.run(['value', '$.arrivals[0].vessel', '--as', 'json'])).out) as string) ?? '';
    await place.run([
      'send',
      'POST',
      '/berths',
      '--json',
      `{"vessel": "${vessel}", "big": 12345678901234567890, "n": 1.10}`,
    ]);
    expect((await place.run(['add', 'book', '--into', file])).out).toContain(
      'linked: {vessel} (vessel) is now kept: $.arrivals[0].vessel, by due (first',
    );
    expect(place.read(file)).toContain(
      '    json:\n      vessel: "{vessel}"\n      big: 12345678901234567890\n      n: 1.10\n',
    );
  });
});

describe('draft in a project', () => {
  test('uses the api that the URL is under, and leaves its credentials to it', async () => {
    const place = folderWith();
    await place.run(['draft', sample(), '--api', 'harbour']);
    const { status } = await place.run([
      'draft',
      `curl ${harbour().url}/v1/berths -H 'Authorization: Bearer ${TOKEN}'`,
    ]);
    expect(status).toBe(0);
    expect(place.read('chains/berths.chain.yaml')).toContain(
      'api: harbour\n\nsteps:\n  - call: berths\n    request: GET /berths\n',
    );
    expect((await place.run(['run', 'chains/berths.chain.yaml'])).status).toBe(0);
    // A further sample is added behind what is there.
    expect(
      (await place.run(['draft', `curl ${harbour().url}/v1/berths/N1`, '--into', 'chains/berths.chain.yaml'])).status,
    ).toBe(0);
    expect((await place.run(['run', 'chains/berths.chain.yaml'])).out).toContain('passed   2 calls');
  });

  test('what it cannot read is answered', async () => {
    const place = folderWith();
    expect(await place.run(['draft', "curl 'https://x"])).toMatchObject({
      status: 2,
      err: expect.stringContaining('not closed'),
    });
    expect(place.all()).toEqual([]);
  });
});

test('find says when a text is nowhere', async () => {
  const place = folderWith({ 'a.json': '{"a": 1}' });
  expect(await place.run(['find', 'x', 'a.json'])).toMatchObject({ status: 1, out: '"x" was not found in a.json\n' });
  expect(await place.run(['find', '1', '-'], { input: '[1]' })).toMatchObject({
    status: 0,
    out: expect.stringContaining('$[0]'),
  });
});

test('the last response is read by its paths, and the last request is sent once more', async () => {
  const place = folderWith();
  await place.run(['draft', sample(), '--api', 'harbour']);
  expect((await place.run(['send', '--again'])).err).toContain('Nothing was sent here yet');
  await place.run(['send', 'GET', '/arrivals', '--query', 'day=2026-05-23']);
  const one = await place.run(['send', 'GET', '/vessels/{$.arrivals[0].vessel}']);
  expect(one).toMatchObject({ status: 0, err: expect.stringMatching(/^\$\.arrivals\[0\]\.vessel is '.*', from /) });
  const again = await place.run(['send', '--again']);
  expect([again.status, again.out]).toEqual([0, one.out]);
  const none = await place.run(['send', 'GET', '/vessels/{$.nothing}']);
  expect(none).toMatchObject({
    status: 2,
    err: expect.stringContaining('$.nothing found nothing in the last response'),
  });
});

test('what is exported as a message or as JavaScript is read back as the same request', async () => {
  const place = folderWith();
  await place.run(['draft', sample(), '--api', 'harbour']);
  await place.run(['send', 'POST', '/berths?x=a,b', '--json', '{"note": "it\'s `new` ${{x}}", "n": 1.50}']);
  for (const form of ['http', 'fetch', 'curl']) {
    const { out } = await place.run(['export', form]);
    expect(out).not.toContain(TOKEN);
    const other = folderWith();
    const token = out.replace(
      /\{\{HARBOUR_TOKEN\}\}|\$\{process\.env\.HARBOUR_TOKEN\}|'"\$HARBOUR_TOKEN"/,
      `${TOKEN}${form === 'curl' ? "'" : ''}`,
    );
    const drafted = await other.run(['draft', '--into', 'c.chain.yaml', '--api', 'harbour'], { input: token });
    expect([form, drafted.status, drafted.status === 0 ? '' : drafted.err + token]).toEqual([form, 0, '']);
    const { out: shown } = await other.run(['preview', 'c.chain.yaml', '--as', 'json']);
    const [{ request }] = JSON.parse(shown) as [{ request: { method: string; url: string; body: string } }];
    expect([request.method, request.url, request.body]).toEqual([
      'POST',
      `${harbour().url}/v1/berths?x=a,b`,
      '{"note":"it\'s `new` ${x}","n":1.50}',
    ]);
  }
});
