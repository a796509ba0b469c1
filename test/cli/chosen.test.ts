import { createServer, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { useFolders } from '../support/program.ts';

const folderWith = useFolders();

/** A server that is asked for something, for one test. */
async function withServer<T>(
  listener: (url: string, response: ServerResponse) => void,
  work: (url: string) => Promise<T>,
): Promise<T> {
  const server = createServer((request, response) => listener(request.url!, response));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  try {
    return await work(`http://127.0.0.1:${(server.address() as AddressInfo).port}`);
  } finally {
    server.closeAllConnections();
    server.close();
  }
}

const project = (url: string, more = '') => `apis:\n  yard:\n    url: ${url}\n${more}`;

describe('which chains run', () => {
  const chain = (tags: string) =>
    `${tags === '' ? '' : `tags: [${tags}]\n`}steps:\n  - let: { x: "1" }\noutputs: { x: x }\n`;
  const folder = () =>
    folderWith({
      'batharon.yaml': project('http://127.0.0.1:1'),
      'chains/a.chain.yaml': chain('daily'),
      'chains/b.chain.yaml': chain('weekly, slow'),
      'chains/c.chain.yaml': chain(''),
      'chains/d.chain.yaml': chain('daily, slow'),
    });
  const ran = async (...args: readonly string[]) => {
    const { out } = await folder().run(['run', 'chains', '--out', '-', '--quiet', ...args]);
    return Object.keys(JSON.parse(out) as object).sort();
  };

  test.each([
    [
      ['--tag', 'daily'],
      ['a', 'd'],
    ],
    [
      ['--tag', 'weekly', '--tag', 'daily'],
      ['a', 'b', 'd'],
    ],
    [
      ['--slice', '1/2'],
      ['a', 'c'],
    ],
    [
      ['--slice', '2/2'],
      ['b', 'd'],
    ],
    [['--tag', 'slow', '--slice', '2/2'], ['d']],
    [[], ['a', 'b', 'c', 'd']],
  ])('%j', async (args, names) => {
    const one = names.length === 1;
    expect(await ran(...args)).toEqual(one ? expect.anything() : names);
  });

  test('several run at the same time where that is said, one after another where it is not', async () => {
    for (const [count, most] of [
      ['3', 3],
      ['1', 1],
    ] as const) {
      let open = 0;
      let seen = 0;
      const waiting: ServerResponse[] = [];
      const answerAll = () => waiting.splice(0).forEach((each) => each.end('{}'));
      await withServer(
        (_url, response) => {
          seen = Math.max(seen, ++open);
          response.on('close', () => open--);
          waiting.push(response);
          if (open >= most) answerAll();
        },
        async (url) => {
          const call = 'api: yard\nsteps:\n  - call: a\n    request: GET /a\n';
          const place = folderWith({
            'batharon.yaml': project(url),
            'chains/a.chain.yaml': call,
            'chains/b.chain.yaml': call,
            'chains/c.chain.yaml': call,
          });
          const { status } = await place.run(['run', 'chains', '--parallel-chains', count]);
          expect([status, seen]).toEqual([0, most]);
        },
      );
    }
  });
});

test('--strict counts a call that needed several attempts as failed', async () => {
  for (const [args, status] of [
    [[], 0],
    [['--strict'], 1],
  ] as const) {
    let asked = 0;
    await withServer(
      (_url, response) => response.writeHead(++asked === 1 ? 503 : 200).end(),
      async (url) => {
        const place = folderWith({
          'batharon.yaml': project(url),
          'c.chain.yaml':
            'api: yard\nsteps:\n  - call: a\n    request: GET /a\n    retry: { tries: 2, wait: 1ms, on: [503] }\n',
        });
        expect((await place.run(['run', 'c.chain.yaml', ...args])).status).toBe(status);
        expect(asked).toBe(2);
      },
    );
  }
});

test.each(['SIGTERM', 'SIGHUP'] as const)('%s pauses a run, which can be resumed', async (signal) => {
  let asked = 0;
  await withServer(
    (url, response) => {
      asked++;
      if (url === '/first') setTimeout(() => response.end('{}'), 300);
      else response.end('{}');
    },
    async (url) => {
      const place = folderWith({
        'batharon.yaml': project(url),
        'c.chain.yaml': 'api: yard\nsteps:\n  - call: a\n    request: GET /first\n  - call: b\n    request: GET /b\n',
      });
      const run = await place.run(['run', 'c.chain.yaml'], { signal, until: () => asked === 1 });
      expect([run.status, asked]).toEqual([130, 1]);
      expect(place.journals()[0]!.at(-1)).toMatchObject({ type: 'paused', why: 'interrupt' });
      const resumed = await place.run(['resume']);
      expect([resumed.status, asked]).toEqual([0, 2]);
    },
  );
});

test('a sample of items is spread over all of them', async () => {
  const asked: string[] = [];
  await withServer(
    (url, response) => {
      asked.push(url);
      response.end();
    },
    async (url) => {
      const place = folderWith({
        'batharon.yaml': project(url),
        'c.chain.yaml':
          'api: yard\nsteps:\n  - each: i in range(1, 10)\n    steps:\n      - call: a\n        request: GET /{i}\n',
      });
      expect((await place.run(['run', 'c.chain.yaml', '--sample', '3'])).status).toBe(0);
      expect(asked).toEqual(['/1', '/4', '/7']);
    },
  );
});

test('chains that use each other in a circle are refused with their place', async () => {
  const uses = (other: string) => `steps:\n  - chain: ${other}.chain.yaml\n`;
  const place = folderWith({
    'batharon.yaml': project('http://127.0.0.1:1'),
    'a.chain.yaml': uses('b'),
    'b.chain.yaml': uses('a'),
  });
  const { status, err } = await place.run(['run', 'a.chain.yaml']);
  expect([status, err]).toEqual([
    2,
    expect.stringMatching(/circular-chain: a\.chain\.yaml uses itself.*\n.*b\.chain\.yaml:2/),
  ]);
});

test('a forecast of what nobody has recorded counts 150 ms for each request', async () => {
  const place = folderWith({
    'batharon.yaml': project('http://127.0.0.1:1'),
    'c.chain.yaml': 'api: yard\nsteps:\n  - call: a\n    request: GET /a\n  - call: b\n    request: GET /b\n',
  });
  const { out } = await place.run(['forecast', 'c.chain.yaml', '--as', 'json']);
  expect(JSON.parse(out)).toMatchObject({ requests: 2, ms: 300 });
});
