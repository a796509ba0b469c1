import { execFile } from 'node:child_process';
import { useCounting } from '../support/counting.ts';
import { useDemo } from '../support/harbour.ts';
import { testWith } from '../support/needs.ts';
import { inTerminal, PROGRAM, type Folder } from '../support/program.ts';

const demo = useDemo();

const { counting, projectWith } = useCounting();

const LOOP = `inputs: { count: { type: integer, default: 60 } }
steps:
  - each: n in range(count)
    concurrency: 8
    steps:
      - call: make
        request: POST /make/{n}
        idempotency-key: true
        json: { n: "{n}" }
        keep: { id: $.id }
      - call: read
        request: GET /read/{n}
      - write: out.csv
        row: { n: "{n}", id: "{id}" }
        update-by: n
    gather: { ids: "{id}" }
outputs: [ids]
`;

test('a run that is killed again and again ends as an unbroken one, and each POST that was answered is done once', async () => {
  const whole = projectWith(LOOP);
  const unbroken = await whole.run(['run', 'c.chain.yaml', '--out', 'outputs.json']);
  expect(unbroken.status).toBe(0);
  counting.posts.length = 0;
  counting.keys.clear();
  const folder = projectWith(LOOP);
  const killedAt = (count: number) => ({ signal: 'SIGKILL' as const, until: () => counting.posts.length >= count });
  await folder.run(['run', 'c.chain.yaml'], killedAt(5));
  for (const count of [6, 17, 30, 44]) await folder.run(['resume'], killedAt(count));
  const last = await folder.run(['resume', '--out', 'outputs.json']);
  expect(last.status).toBe(0);
  expect(folder.read('outputs.json')).toBe(whole.read('outputs.json'));
  const rows = (text: string) => text.split('\n').sort();
  expect(rows(folder.read('out.csv'))).toEqual(rows(whole.read('out.csv')));
  // What was answered, and the answer recorded, is not sent again; what is sent again carries its key.
  for (const [, keys] of counting.keys) expect(new Set(keys).size).toBe(1);
  expect(new Set(counting.posts).size).toBe(60);
  const answered = folder
    .journals()[0]!
    .filter(({ type }) => type === 'answered')
    .map(({ x }) => x);
  expect(new Set(answered).size).toBe(answered.length);
});

test('items of which nothing but their calls is left are taken whole from the record, and reported as they were', async () => {
  const loop = `steps:
  - each: n in range(60)
    concurrency: 4
    steps:
      - call: make
        request: POST /make/{n}
        expect: [$.id != null]
`;
  const folder = projectWith(loop);
  await folder.run(['run', 'c.chain.yaml'], { signal: 'SIGKILL', until: () => counting.posts.length >= 40 });
  const rest = await folder.run(['resume', '--not-sent', 'all']);
  await folder.run(['report', 'junit=r.xml']);
  expect([rest.status, rest.all]).toEqual([0, expect.stringContaining('60 calls, 120 expectations')]);
  const kept = folder.journals()[0]!.flatMap((event) => (event.type === 'kept' ? [event.items as number] : []));
  expect(kept.reduce((sum, items) => sum + items, 0)).toBeGreaterThan(25);
  expect(folder.read('r.xml').match(/<testcase/g)).toHaveLength(60);
});

testWith(['script'], 'a request in doubt is not sent again until somebody says what became of it', async () => {
  const folder = projectWith(
    'steps:\n  - call: first\n    request: GET /first\n  - call: make\n    request: POST /make\n',
  );
  counting.server.prependListener('request', (request) => (counting.silent ||= request.method === 'POST'));
  await folder.run(['run', 'c.chain.yaml'], { signal: 'SIGKILL', until: () => counting.silent });
  const asked = await folder.run(['resume', '--no-prompt']);
  expect([asked.status, asked.all.includes('in-doubt')]).toEqual([3, true]);
  expect(asked.all).toMatch(/--not-sent 2\/make/);
  expect(counting.posts).toEqual([]);
  const screen = await inTerminal(folder, ['resume'], [['Did the server process 2/make?', '\u001b[B\u001b[B']]);
  expect(screen).toContain('I do not know: stop');
  expect(counting.posts).toEqual([]);
  const done = await folder.run(['resume', '--sent', '2/make']);
  expect([done.status, counting.posts]).toEqual([0, []]);
});

test('a changed expectation is judged on what was recorded; a changed request is sent, and what is read behind it', async () => {
  const steps = (expect: string, body = '1') =>
    `steps:\n  - call: make\n    request: POST /make\n    json: { n: ${body} }\n  - call: read\n    request: GET /read\n    expect: [${expect}]\n  - call: add\n    request: POST /add\n`;
  const folder = projectWith(steps("$.id == 'other'"));
  expect((await folder.run(['run', 'c.chain.yaml'])).status).toBe(1);
  expect(counting.posts).toEqual(['/make']);
  folder.write('c.chain.yaml', `name: c\napi: a\n${steps("$.id == 'read'")}`);
  const judged = await folder.run(['resume']);
  expect([judged.status, counting.posts]).toEqual([0, ['/make', '/add']]);
  expect(judged.all).toContain('1 call done (from 1/make), 1 re-evaluated (from 2/read), 1 to send (from add)');
  expect(judged.all).toMatch(/2 +read .*done before/);
  expect((await folder.run(['resume'])).all).toContain('has passed');
  const other = projectWith(steps("$.id == 'other'"));
  await other.run(['run', 'c.chain.yaml']);
  other.write('c.chain.yaml', `name: c\napi: a\n${steps("$.id == 'read'", '2')}`);
  expect((await other.run(['resume', '--resend', 'all'])).status).toBe(0);
  expect(counting.posts.slice(2)).toEqual(['/make', '/make', '/add']);
});

test('a part of a loop, and then the rest', async () => {
  const folder = projectWith(LOOP);
  expect((await folder.run(['run', 'c.chain.yaml', '--first', '3'])).all).toContain('3 of 60 items');
  expect(counting.posts).toHaveLength(3);
  const rest = await folder.run(['resume', '--all']);
  expect([rest.status, counting.posts.length]).toEqual([0, 60]);
});

test('rows that are put behind others stand there once, however often the run goes on', async () => {
  const steps = (expect: string) =>
    `steps:\n  - each: n in range(3)\n    steps:\n      - { call: read, request: "GET /r/{n}" }\n      - { write: log.csv, row: { n: "{n}" }, append: true }\n  - { call: last, request: GET /last, expect: [${expect}] }\n`;
  const folder = projectWith(steps('1 == $.id'));
  folder.write('log.csv', 'n\nbefore\n');
  expect((await folder.run(['run', 'c.chain.yaml'])).status).toBe(1);
  folder.write('c.chain.yaml', `name: c\napi: a\n${steps("$.id == 'last'")}`);
  expect((await folder.run(['resume'])).status).toBe(0);
  expect(folder.read('log.csv')).toBe('n\nbefore\n0\n1\n2\n');
});

test('failed items stay failed, or are tried again with --failed', async () => {
  const folder = demo();
  expect((await folder.run(['run', 'chains/arrivals.chain.yaml'])).status).toBe(1);
  const stays = await folder.run(['resume']);
  expect([stays.status, /14 items, 5 failed/.test(stays.all), stays.all.includes('0 to send')]).toEqual([
    1,
    true,
    true,
  ]);
  const again = await folder.run(['resume', '--failed', '--input', 'deepest=20']);
  expect([again.status, /14 items {3}fit: 14 items/.test(again.all)]).toEqual([0, true]);
});

test('an older response stands for asking again while it is fresh', async () => {
  const steps =
    'steps:\n  - call: read\n    request: GET /read\n    fresh-for: 1h\n    keep: { id: $.id }\noutputs: [id]\n';
  const folder = projectWith(steps);
  let asked = 0;
  counting.server.on('request', () => asked++);
  await folder.run(['run', 'c.chain.yaml']);
  const again = await folder.run(['run', 'c.chain.yaml', '--out', '-']);
  expect([asked, again.status, JSON.parse(again.out)]).toEqual([1, 0, { id: 'read' }]);
  expect(again.err).toMatch(/from run \d{4}-/);
});

test('a table too long to hold is gone on with as it was, whatever has become of its file', async () => {
  const place = projectWith(`inputs: { rows: { type: table, columns: { n: integer } } }
steps:
  - each: row in rows
    steps:
      - call: make
        when: row.n >= 10040
        request: POST /make/{row.n}/{row.name}
        expect: [row.n < 10045]
    gather: { names: { name: "{row.name}" } }
  - write: names.ndjson
    rows: names
`);
  place.write('rows.csv', `n,name\n${Array.from({ length: 10_050 }, (_, i) => `${i},a\n`).join('')}`);
  expect((await place.run(['run', 'c.chain.yaml', '--input', 'rows=@rows.csv'])).status).toBe(1);
  const made = ['0', '1', '2', '3', '4', '5'].map((each) => `/make/1004${each}/a`);
  expect(counting.posts).toEqual(made);
  place.write('rows.csv', 'n,name\n1,b\n');
  place.write('c.chain.yaml', place.read('c.chain.yaml').replace('row.n < 10045', 'status == 200'));
  const { out } = await place.run(['resume']);
  expect(out).toContain('10,050 items');
  expect(place.read('names.ndjson')).toBe('{"name":"a"}\n'.repeat(10_050));
  expect(counting.posts).toEqual([...made, ...['6', '7', '8', '9'].map((each) => `/make/1004${each}/a`)]);
});

test('--cleanup takes back what was made, and does nothing else', async () => {
  const folder = demo();
  const made = await folder.run(['run', 'chains/new-berth.chain.yaml', '--to', 'read']);
  expect(made.status).toBe(0);
  const { out, status } = await folder.run(['resume', '--cleanup']);
  expect(status).toBe(1);
  expect(out).toMatch(/u1 +create +DELETE \/berths\/\S+ +204/);
  expect(out).toMatch(/c1 +berth \S+: failed/);
  const sent = folder
    .journals()
    .at(-1)!
    .filter(({ type }) => type === 'sent');
  expect(sent.map((event) => (event as { request: { method: string } }).request.method)).toEqual([
    'POST',
    'GET',
    'DELETE',
  ]);
});

test('what was taken back when a run failed is made anew when it goes on, and can be rehearsed', async () => {
  const folder = demo();
  const chain = (state: string) =>
    `api: harbour\nsteps:\n  - call: create\n    request: POST /berths\n    json: { name: q, depth: 6.5, quay: S }\n    keep: { berth: $.id }\n    undo: DELETE /berths/{berth}\n  - call: read\n    request: GET /berths/{berth}\n    expect: [$.depth == ${state}]\n`;
  folder.write('chains/c.chain.yaml', chain('7'));
  expect((await folder.run(['run', 'chains/c.chain.yaml'])).status).toBe(1);
  folder.write('chains/c.chain.yaml', chain('6.5'));
  const { out, status } = await folder.run(['resume', '--no-prompt']);
  expect([status, out]).toEqual([
    0,
    expect.stringMatching(/1 +create +POST \/berths +201[^]*u1 +create +DELETE \S+ +204/),
  ]);
  const offline = await folder.run(['rehearse', 'chains/c.chain.yaml']);
  expect([offline.status, offline.all]).toEqual([0, expect.stringMatching(/u1 +create/)]);
});

test('what was received stays received, and an address is listened at again', async () => {
  const folder = demo();
  const notice = folder.read('chains/notice.chain.yaml');
  folder.write(
    'chains/notice.chain.yaml',
    notice.replace('outputs:', "  - stop: 'too early for {vessel}'\n\noutputs:"),
  );
  expect((await folder.run(['run', 'chains/notice.chain.yaml'])).status).toBe(1);
  expect((await folder.run(['rehearse', 'chains/notice.chain.yaml'])).status).toBe(1);
  folder.write(
    'chains/notice.chain.yaml',
    notice
      .replace('vessel: $.vessel\n\n', 'vessel: $.vessel\n      state: $.state\n\n')
      // Steps are known by what they are, wherever they come to stand.
      .replace('steps:\n', "steps:\n  - say: 'a step above'\n")
      .replace('[vessel]', '[vessel, state]'),
  );
  const { out, status } = await folder.run(['resume', '--out', 'given.json']);
  expect([status, out]).toEqual([0, expect.stringContaining('POST received before')]);
  expect(JSON.parse(folder.read('given.json'))).toEqual({ vessel: 'KM 204/5', state: 'moored' });
  const urls = folder
    .journals()
    .at(-1)!
    .filter(({ type }) => type === 'listening');
  expect(urls).toHaveLength(2);
  expect((urls[0] as unknown as { url: string }).url).toBe((urls[1] as unknown as { url: string }).url);
  expect((await folder.run(['rehearse', 'chains/notice.chain.yaml'])).status).toBe(0);
});

test('a saved file that is still there is not fetched again; one that changed is, when that only reads', async () => {
  const steps = (expect: string) =>
    `steps:\n  - { call: read, request: GET /read, save: read.json, keep: { size: $.size } }\n  - { call: make, request: POST /make, save: made.json }\n  - { call: last, request: "GET /last/{size}", expect: [${expect}] }\n`;
  const folder = projectWith(steps("$.id == 'x'"));
  const sent = () =>
    folder
      .journals()
      .at(-1)!
      .flatMap((event) => (event['type'] === 'sent' ? [event['step']] : []));
  const changed = (expect: string) => folder.write('c.chain.yaml', `name: c\napi: a\n${steps(expect)}`);
  expect((await folder.run(['run', 'c.chain.yaml'])).status).toBe(1);
  changed("$.id == 'y'");
  expect((await folder.run(['resume'])).status).toBe(1);
  expect(sent()).toEqual(['1/read', '2/make', '3/last']);
  folder.write('read.json', 'other');
  changed('exists($.id)');
  const read = await folder.run(['resume']);
  expect(sent().slice(3)).toEqual(['1/read']);
  expect([read.status, counting.posts]).toEqual([0, ['/make']]);
  const again = projectWith(steps("$.id == 'x'"));
  await again.run(['run', 'c.chain.yaml']);
  again.write('made.json', 'other');
  expect((await again.run(['resume'])).all).toMatch(/saved-file-changed: .*made\.json/);
  expect((await again.run(['resume', '--not-sent', '2'])).status).toBe(1);
  expect(counting.posts).toEqual(['/make', '/make', '/make']);
});

test('--watch runs again at each save, sends nothing twice, and tidies up once at its end', async () => {
  const steps = (expect: string) =>
    `steps:\n  - { call: make, request: POST /make, undo: DELETE /make }\n  - { call: read, request: GET /read, expect: [${expect}] }\ncleanup:\n  - { call: close, request: POST /close }\n`;
  const folder = projectWith(steps("$.id == 'x'"));
  const texts = ["$.id == 'y'", "$.id == 'read'"];
  let runs = 0;
  // A journal that was only just begun has no line yet.
  const pauses = (): number => {
    try {
      return folder.journals().filter((events) => events.at(-1)?.['type'] === 'paused').length;
    } catch {
      return 0;
    }
  };
  const until = (): boolean => {
    const ended = pauses();
    if (ended > runs) {
      runs = ended;
      const next = texts.shift();
      if (next === undefined) return true;
      setTimeout(() => folder.write('c.chain.yaml', `name: c\napi: a\n${steps(next)}`), 300);
    }
    return false;
  };
  const { status, all } = await folder.run(['run', 'c.chain.yaml', '--watch'], { until });
  expect(all).toContain('Watching: save a file');
  expect([status, counting.posts]).toEqual([0, ['/make', '/close']]);
  const sent = folder
    .journals()
    .flat()
    .flatMap((event) => (event['type'] === 'sent' ? [(event['request'] as { method: string }).method] : []));
  expect(sent.sort()).toEqual(['DELETE', 'GET', 'POST', 'POST']);
  expect((await folder.run(['resume'])).all).toContain('has passed');
}, 30_000);

/** A shell command in a folder, with `batharon` for the built program. */
function inShell(place: Folder, command: string): Promise<{ status: number | null; all: string }> {
  const text = command.replaceAll('batharon', `'${process.execPath}' '${PROGRAM}'`);
  const env = { PATH: process.env['PATH'] } as unknown as NodeJS.ProcessEnv;
  return new Promise((resolve) => {
    const child = execFile('sh', ['-c', text], { cwd: place.path, env }, (_error, out, err) =>
      resolve({ status: child.exitCode, all: out + err }),
    );
  });
}

describe('what the machine does to a run leaves it so that it can go on', () => {
  const project = () => {
    const folder = demo();
    folder.write(
      'chains/many.chain.yaml',
      'name: many\napi: harbour\nsteps:\n  - each: n in range(400)\n    concurrency: 8\n    steps:\n      - { call: berth, request: GET /berths/N1 }\n',
    );
    return folder;
  };

  test('a full disk: nothing is sent that cannot be recorded', async () => {
    const folder = project();
    // Files may have so many KiB; what is beyond is refused as on a full disk.
    const { status, all } = await inShell(folder, `trap "" XFSZ; ulimit -f 100; batharon run chains/many.chain.yaml`);
    expect([status, all]).toEqual([3, expect.stringMatching(/not-writable: .*could not be written/)]);
    const resumed = await folder.run(['resume']);
    expect([resumed.status, resumed.all]).toEqual([0, expect.stringContaining('passed')]);
    // Sent again are those alone whose answers could not be written down.
    const sent = folder
      .journals()
      .at(-1)!
      .filter(({ type }) => type === 'sent');
    expect(sent.length).toBeLessThanOrEqual(400 + 8);
  });

  test('a reader of the output that went away', async () => {
    const folder = project();
    const { all } = await inShell(folder, 'batharon run chains/many.chain.yaml | head -1');
    expect(all).toMatch(/^many/);
    expect(folder.journals().at(-1)!.at(-1)).toMatchObject({ type: 'paused', why: 'interrupt' });
    expect((await folder.run(['resume'])).status).toBe(0);
  });

  test('a network that is gone', async () => {
    const folder = projectWith(LOOP);
    counting.silent = true;
    const going = folder.run(['run', 'c.chain.yaml']);
    await new Promise((resolve) => setTimeout(resolve, 700));
    counting.server.closeAllConnections();
    counting.server.close();
    expect((await going).status).toBe(3);
    const port = Number(new URL(counting.url).port);
    counting.silent = false;
    await new Promise<void>((resolve) => counting.server.listen(port, '127.0.0.1', resolve));
    expect((await folder.run(['resume'])).status).toBe(0);
    expect(new Set(counting.posts).size).toBe(60);
  });
});
