import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { parse } from 'csv-parse/sync';
import { useFolders, type Folder } from '../support/program.ts';

/** A harbour that is as its path says: `/flaky/2` answers at the third request, `/slow` never. */
const asked = new Map<string, number>();
let isMended = false;
const server = createServer((request, response) => void answer(request, response));

function answer(request: IncomingMessage, response: ServerResponse): void {
  const { pathname, searchParams } = new URL(request.url!, 'http://x');
  const count = (asked.get(pathname) ?? 0) + 1;
  asked.set(pathname, count);
  const [, what = '', more = ''] = pathname.split('/');
  const send = (status: number, body: object) => {
    response.writeHead(status, { 'Content-Type': 'application/json' }).end(JSON.stringify(body));
  };
  if (what === 'slow') return;
  if (what === 'flaky' && count % (Number(more) + 1) !== 0) return send(503, { why: 'busy' });
  if (what === 'bad' && !isMended) return send(422, { why: `no ${more}` });
  if (what === 'job') return send(200, { state: count % 3 === 0 ? 'done' : 'open', n: count });
  if (what === 'pages') {
    const page = Number(searchParams.get('page') ?? 1);
    return send(200, { rows: [page, page + 1], next: page < 3 ? page + 1 : null });
  }
  if (what === 'notify') {
    void fetch(searchParams.get('to')!, {
      method: 'POST',
      body: '{"state":"moored"}',
      headers: { 'content-type': 'application/json' },
    });
  }
  send(200, { id: `${what}-${more || count}`, items: [{ id: 'KM' }, { id: 'SV' }, { id: 'TR' }], ok: true });
}

const CHAINS: Readonly<Record<string, string>> = {
  plain:
    '- call: list\n  request: GET /list\n  keep: { id: $.id }\n- call: add\n  request: POST /add\n  json: { of: "{id}" }\n',
  wrong:
    '- call: list\n  request: GET /list\n  expect: ["$.ok == false", "$.id == \'x\'"]\n- call: after\n  request: GET /after\n',
  retried: '- call: flaky\n  request: GET /flaky/2\n  retry: { tries: 3, wait: 1ms }\n',
  spent:
    '- call: flaky\n  request: GET /flaky/8\n  retry: { tries: 3, wait: 1ms }\n  on-failure: continue\n- call: after\n  request: GET /after\n',
  polled: '- call: job\n  request: GET /job/a\n  poll: { until: "$.state == \'done\'", every: 1ms, within: 5s }\n',
  overdue: '- call: job\n  request: GET /list\n  poll: { until: "$.id == \'never\'", every: 10ms, within: 30ms }\n',
  pages:
    '- call: rows\n  request: GET /pages\n  paging: { query: { page: "{$.next}" }, while: $.next != null, items: $.rows }\n  keep: { all: items }\n',
  undone:
    '- call: make\n  request: POST /make\n  undo: { request: DELETE /make }\n- call: bad\n  request: GET /bad/x\n',
  loop: "- call: list\n  request: GET /list\n  keep: { vs: $.items }\n- each: v in vs\n  on-failure: continue\n  steps:\n    - call: see\n      request: GET /see/{v.id}\n    - call: ask\n      when: v.id != 'TR'\n      request: GET /bad/{v.id}\n",
  nested:
    '- call: list\n  request: GET /list\n  keep: { vs: "$.items[0:2]" }\n- each: v in vs\n  steps:\n    - each: n in [1, 2]\n      steps:\n        - call: see\n          request: GET /see/{v.id}{n}\n',
  outer: '- chain: inner.chain.yaml\n- call: after\n  request: GET /after\n',
  inner: '- call: inside\n  request: GET /inside\n',
  called:
    '- listen: hook\n- call: ask\n  request: POST /notify\n  query: { to: "{hook.url}" }\n- receive: hook\n  within: 5s\n  expect: ["$.state == \'moored\'"]\n',
  fresh: '- call: list\n  request: GET /list\n  fresh-for: 1h\n- call: add\n  request: POST /add\n',
  late: '- call: slow\n  request: GET /slow\n  timeout: 50ms\n  on-failure: continue\n- call: after\n  request: GET /after\n',
  gone: '- call: gone\n  request: GET http://127.0.0.1:1/\n',
  mended:
    '- call: list\n  request: GET /list\n- call: bad\n  request: GET /bad/y\n  retry: { tries: 2, wait: 1ms, on: [422] }\n',
  stopped:
    '- call: list\n  request: GET /list\n  keep: { ok: $.ok }\n- if: not(ok)\n  steps:\n    - call: never\n      request: GET /never\n- stop: enough\n',
};

/** Chains that are resumed after the first run was looked at as it was: copies, since a resumed run is one record. */
const RESUMED = { 'loop resumed': 'loop', 'mended later': 'mended' } as const;

const folderWith = useFolders();
let folder: Folder;
const runs = new Map<string, string>();
const shown = new Map<string, string>();

async function run(name: string, args: readonly string[], of = name): Promise<void> {
  const { all } = await folder.run(args[0] === 'resume' ? args : ['run', `${of}.chain.yaml`, '--verbose', ...args]);
  if (/nothing was sent/.test(all)) throw new Error(all);
  runs.set(name, args[0] === 'resume' ? args[1]! : lastRun(folder));
  shown.set(name, all);
}

function lastRun(from: Folder): string {
  const last = from
    .all()
    .filter(([file]) => file.endsWith('journal.ndjson'))
    .map(([file]) => file.split('/')[2]!)
    .sort();
  const seen = new Set(runs.values());
  return last.find((id) => !seen.has(id)) ?? [...runs.values()].at(-1)!;
}

beforeAll(async () => {
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  folder = folderWith({
    'batharon.yaml': `apis:\n  yard: { url: "http://127.0.0.1:${(server.address() as AddressInfo).port}" }\n`,
    ...Object.fromEntries(
      Object.entries(CHAINS).map(([name, steps]) => [
        `${name}.chain.yaml`,
        `name: ${name}\napi: yard\nsteps:\n${steps.replace(/^(?=.)/gm, '  ')}`,
      ]),
    ),
  });
  for (const name of Object.keys(CHAINS)) await run(name, []);
  await run('fresh again', [], 'fresh');
  await run('reused', ['--reuse', runs.get('plain')!], 'plain');
  for (const [name, of] of Object.entries(RESUMED)) await run(name, [], of);
  isMended = true;
  await run('loop mended', ['resume', runs.get('loop resumed')!, '--failed', '--verbose']);
  await run('mended again', ['resume', runs.get('mended later')!, '--verbose']);
}, 120_000);
afterAll(() => (server.closeAllConnections(), server.close()));

type Call = Readonly<{
  address: string;
  name: string;
  outcome: string;
  method: string;
  url: string;
  status: number | null;
  ms: number;
  tries: number;
  requests: number;
  reason?: string;
}>;

const plain = (html: string) =>
  html
    .replace(/<[^>]*>/g, '')
    .replaceAll('&lt;', '<')
    .replaceAll('&gt;', '>')
    .replaceAll('&quot;', '"')
    .replaceAll('&amp;', '&');
const csvRows = (text: string) => parse(text, { columns: true }) as readonly Record<string, string>[];

const WHICH = [...Object.keys(CHAINS), 'fresh again', 'reused', 'loop mended', 'mended again'];
test.each(WHICH)('all views of a run tell the same: %s', async (which) => {
  const id = runs.get(which)!;
  const kinds = ['json', 'csv', 'junit', 'har', 'html', 'markdown', 'tap'];
  await folder.run(['report', id, ...kinds.map((kind) => `${kind}=r.${kind}`)]);
  const text = Object.fromEntries(kinds.map((kind) => [kind, folder.read(`r.${kind}`)]));
  const [{ calls, failures }] = JSON.parse(text['json']!).runs as [
    { calls: Call[]; failures: { name: string; reason: string }[] },
  ];
  const rows = csvRows(text['csv']!);
  const cases = [
    ...text['junit']!.matchAll(/<testcase name="([^"]*)"[^>]*?time="([^"]*)"[^>]*?(?:\/>|>([^]*?)<\/testcase>)/g),
  ];
  const entries = JSON.parse(text['har']!).log.entries as {
    comment: string;
    request: { url: string };
    response: { status: number };
  }[];
  const cards = [...text['html']!.matchAll(/<summary><span class="quiet">[^<]*<\/span>([^]*?)<\/summary>/g)].map(
    ([, inner]) => [...inner!.matchAll(/<span[^>]*>([^]*?)<\/span>/g)].map(([, each]) => plain(each!)),
  );
  expect([rows.length, cases.length, cards.length]).toEqual([calls.length, calls.length, calls.length]);
  for (const [i, call] of calls.entries()) {
    const { name, outcome, method, url, status, ms, tries, requests, reason } = call;
    const row = rows[i]!;
    expect([
      row['item'] ? `${row['call']} [${row['item']}]` : row['call'],
      row['outcome'],
      row['status'],
      row['ms'],
      row['tries'],
      row['requests'],
      row['reason'] ?? '',
    ]).toEqual([name, outcome, String(status ?? ''), String(ms), String(tries), String(requests), reason ?? '']);
    const [, title, time, inside = ''] = cases[i]!;
    expect([plain(title!), Number(time)]).toEqual([name, Number((ms / 1000).toFixed(3))]);
    expect(inside.includes('<failure')).toBe(outcome === 'failed');
    if (reason !== undefined)
      expect(plain(/message="([^"]*)"/.exec(inside)![1]!).replaceAll('&#10;', '\n')).toBe(reason);
    const own = entries.filter(({ comment }) => comment === name || comment.startsWith(`${name},`));
    const reused = outcome === 'fresh' || (outcome === 'reused' && requests === 0);
    expect(own.length).toBeGreaterThanOrEqual(reused ? 1 : requests);
    if (own.length > 0) expect([own.at(-1)!.response.status, own[0]!.request.url]).toEqual([status ?? 0, url]);
    const card = cards[i]!;
    expect(card).toContain(name);
    if (method !== '') expect(card).toContain(`${method} ${url}`);
    if (status !== null) expect(card.some((each) => each.includes(String(status)))).toBe(true);
    // A line of the terminal, under the name of the call, says its status, or why it has none.
    const line = shown
      .get(which)!
      .split('\n')
      .find(
        (each) =>
          new RegExp(`^ *[\\du#.]+ +${name.replace(/ [[(].*/, '')} `).test(each) &&
          (status === null || each.includes(` ${status} `)),
      );
    expect([name, line !== undefined || outcome === 'cut' || outcome === 'skipped' || outcome === 'reused']).toEqual([
      name,
      true,
    ]);
    const item = /#([\d#.]+)\.\d+\//
      .exec(call.address)?.[1]
      ?.split('#')
      .map((part) => part.split('.')[0])
      .join('.');
    if (i < 2 && (requests > 0 || reused) && !name.includes('(undo)') && !call.address.startsWith('1.')) {
      const look = await folder.run([
        'look',
        name.replace(/ \[.*/, ''),
        '--run',
        id,
        '--as',
        'json',
        ...(item ? ['--item', item] : []),
      ]);
      const seen = JSON.parse(look.out) as { request: { method: string; url: string }; response: { status?: number } };
      expect([name, seen.request.method, seen.response.status ?? null]).toEqual([name, method, status]);
    }
  }
  for (const { name, reason } of failures) {
    expect(text['markdown']!.replace(/\s+/g, ' ')).toContain(reason.split(/: |\n/)[0]!);
    expect(text['tap']).toContain(JSON.stringify(reason));
    expect(shown.get(which)!).toMatch(new RegExp(`failed +${name.replace(/ [[(].*/, '')}`));
  }
  const compared = await folder.run(['compare', id, id]);
  expect(compared.out).toMatch(new RegExp(`0 calls differ, ${calls.length} do`));
});
