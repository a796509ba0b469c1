import { execFileSync } from 'node:child_process';
import { chmodSync, mkdirSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { hostname } from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { catalogue, type Code } from '../../src/core/diagnostics/catalogue.ts';
import type { OpenCallbacks } from '../../src/core/ports.ts';
import type { CodeExample } from '../../src/core/reference/codes/definition.ts';
import { codePage } from '../../src/core/reference/codes/list.ts';
import { allChainProblems, projectProblems } from '../support/chains.ts';
import { chainOf, coreRun } from '../support/engine.ts';
import { copyDemoInto, useHarbour } from '../support/harbour.ts';
import { testWith } from '../support/needs.ts';
import { inTerminal, useFolders, type Folder } from '../support/program.ts';

const codes = Object.keys(catalogue) as Code[];
const examples = codes.map((code) => [code, codePage(code)?.example] as const);
const harbour = useHarbour();
const folderWith = useFolders();

test('every code has a page with an example that fails', () => {
  expect(examples.flatMap(([code, example]) => (example ? [] : [code]))).toEqual([]);
  for (const code of codes) expect(codePage(code)!.about).toMatch(/\.$/);
});

const PROJECT = `apis:
  harbour:
    deployments:
      sandbox: { url: http://127.0.0.1:1/v1, settings: { quay: N } }
      live: { url: https://harbour.example/v1, settings: { quay: S, pier: p } }
    default-deployment: sandbox
  watch: { url: http://127.0.0.1:1/watch }
`;

/** Port 80 is taken, and at others nobody calls. */
const silent: OpenCallbacks = ({ port, path }) => {
  if (port === 80) return Promise.reject(new Error('in use'));
  return Promise.resolve({
    url: `http://127.0.0.1:1${path}`,
    port: 1,
    next: () => Promise.resolve(undefined),
    close: () => {},
  });
};

/** The codes that an example brings about without a process of its own. */
async function codesOf(example: CodeExample): Promise<readonly string[]> {
  if ('steps' in example) return allChainProblems(chainOf(example.steps), PROJECT).map(({ code }) => code);
  if ('chain' in example) return allChainProblems(example.chain, PROJECT).map(({ code }) => code);
  if ('project' in example) return projectProblems(example.project).map(({ code }) => code);
  if (!('run' in example)) throw new Error('This example is a command line');
  const answers = example.answer ? [example.answer] : [];
  return (await coreRun(chainOf(example.run), { answers, openCallbacks: silent })).codes;
}

test.each(examples.filter(([, example]) => example && !('command' in example)))('%s', async (code, example) => {
  expect(await codesOf(example!)).toContain(code);
});

/** A project to run command lines in, with what their examples speak of. */
function demoFolder(): Folder {
  const folder = folderWith({
    'not-utf8.chain.yaml': '',
    'input.chain.yaml': 'inputs:\n  quay: { type: string, choices: [N, S] }\nsteps:\n  - say: "{quay}"\n',
    'choices.chain.yaml':
      'inputs:\n  x: { type: string, choices: { chain: chains/vessels.chain.yaml, name: boats } }\nsteps:\n  - say: "{x}"\n',
    'equals.chain.yaml':
      'api: harbour\nsteps:\n  - call: berths\n    request: GET /berths/N1\n    expect:\n      - equals: berth.json\n',
  });
  folder.write('not-utf8.chain.yaml', new Uint8Array([0x61, 0xff, 0x62]));
  copyDemoInto(folder, harbour());
  return folder;
}

const SIGN_IN = 'chains/sign-in.chain.yaml';
const PERSON = `      oauth2:
        grant: authorization-code
        authorize-url: http://127.0.0.1:1/authorize
        token-url: http://127.0.0.1:1/token
        client-id: desk
`;

function append(folder: Folder, text: string): void {
  folder.write('batharon.yaml', folder.read('batharon.yaml') + text);
}

function swap(folder: Folder, file: string, from: string, to: string): void {
  folder.write(file, folder.read(file).replace(from, to));
}

/** What the words before a command line make of the folder it runs in. */
const preparations: Readonly<Record<string, (folder: Folder, value: string) => void>> = {
  outside: (folder) => execFileSync('rm', [path.join(folder.path, 'batharon.yaml')]),
  'without-secrets': (folder) => execFileSync('rm', [path.join(folder.path, 'secrets.env')]),
  secret: (folder, value) => folder.write('secrets.env', `HARBOUR_TOKEN=${value}\nHARBOUR_KEY=kvitnes-key\n`),
  'known-secret': (folder) => {
    folder.write('secrets.env', 'HARBOUR_TOKEN=kvitnes-sandbox\nBERTH_CODE=berth-0a1b2c3d\n');
    folder.write(
      'chains/pasted.chain.yaml',
      'api: harbour\nsteps:\n  - call: a\n    request: GET /berths\n    headers: { X-Berth: berth-0a1b2c3d }\n',
    );
  },
  misfit: (folder) => swap(folder, 'chains/described.chain.yaml', 'GET /berths', 'GET /berth'),
  'broken-contract': (folder) => folder.write('openapi/harbour.yaml', 'swagger: "2.0"\n'),
  readable: (folder) => chmodSync(path.join(folder.path, 'secrets.env'), 0o644),
  'in-git': (folder) => {
    mkdirSync(path.join(folder.path, '.git'));
    writeFileSync(path.join(folder.path, '.gitignore'), 'node_modules\n');
  },
  'file-for-record': (folder) => folder.write('.batharon', 'a file'),
  recorded: () => {},
  guarded: (folder) =>
    folder.write(
      'batharon.yaml',
      folder.read('batharon.yaml').replace('      sandbox:\n', '      sandbox:\n        changes: when-allowed\n'),
    ),
  'redis-gone': (folder) => append(folder, 'redis: redis://127.0.0.1:1\n'),
  'total-concurrency': (folder) =>
    swap(folder, 'batharon.yaml', '  harbour:\n', '  harbour:\n    total-concurrency: 4\n'),
  unchosen: (folder) =>
    folder.write(
      'batharon.yaml',
      folder
        .read('batharon.yaml')
        .replace(/ +default-deployment: .*/, "      live: { url: 'http://127.0.0.1:1', settings: { quay: N } }"),
    ),
  person: (folder) => append(folder, '  pilots:\n    url: http://127.0.0.1:1/v1\n    auth:\n' + PERSON),
  'sign-in-takes': (folder) =>
    swap(folder, 'batharon.yaml', '      attach:\n', '      inputs: { day: today }\n      attach:\n'),
  'sign-in-lacks': (folder) => swap(folder, SIGN_IN, 'steps:\n', 'inputs: { user: string }\nsteps:\n'),
  'sign-in-gives': (folder) => swap(folder, 'batharon.yaml', 'outputs.session', 'outputs.token'),
  'sign-in-circle': (folder) => {
    append(folder, '  yard:\n    url: http://127.0.0.1:1\n    auth: { chain: chains/yard.chain.yaml }\n');
    folder.write('chains/yard.chain.yaml', 'api: gate\nsteps:\n  - call: gate\n    request: GET /log\n');
    swap(folder, SIGN_IN, 'steps:\n', 'steps:\n  - call: yard\n    api: yard\n    request: GET /\n');
  },
  table: (folder) => {
    folder.write('lacking.csv', 'cargo,vessel\nC-1,KM 100/1\n');
    folder.write('bad.csv', 'cargo,vessel,tonnes,since\nC-1,KM 100/1,heavy,2026-13-01\n');
  },
  // A run that was killed between a request and its answer; and one that a living process writes.
  doubtful: (folder) => recordedRun(folder, 'x'),
  'under-way': (folder) => recordedRun(folder, JSON.stringify({ pid: 1, host: hostname() })),
  'environment-secret': (folder) =>
    folder.write(
      'chains/environment.chain.yaml',
      "api: harbour\nsteps:\n  - call: list\n    request: GET /berths\n    headers: { X-Home: '{secret.PATH}' }\n",
    ),
  'secret-command': (folder) => {
    const declared = 'VAULT_KEY: { command: [no-such-program, VAULT_KEY], for: [harbour] }';
    swap(folder, 'batharon.yaml', 'secrets:\n', `secrets:\n  ${declared}\n`);
    const call = "  - call: list\n    request: GET /berths\n    headers: { X-Key: '{secret.VAULT_KEY}' }\n";
    folder.write('chains/vault.chain.yaml', `api: harbour\nsteps:\n${call}`);
  },
  unsigned: (folder) => swap(folder, 'chains/notice.chain.yaml', 'NOTICE_KEY', 'HARBOUR_TOKEN'),
  elsewhere: (folder) => {
    append(folder, "  far:\n    url: https://harbour.example\n    auth: { bearer: '{secret.HARBOUR_TOKEN}' }\n");
    folder.write('chains/elsewhere.chain.yaml', 'api: far\nsteps:\n  - call: list\n    request: GET /berths\n');
  },
  'leaving-secret': (folder) =>
    folder.write(
      'chains/leaving.chain.yaml',
      "steps:\n  - call: list\n    request: GET http://127.0.0.1:1/\n    headers: { X-Key: '{secret.HARBOUR_TOKEN}' }\n",
    ),
  rehearsed: () => {},
  changed: () => {},
  edited: () => {},
  resaved: () => {},
  'kept-secret': () => {},
  accepting: () => {},
  hanging: () => {},
  huge: () => {},
};

/** A run of a chain that is another one since. */
async function rehearsed(folder: Folder, value: string): Promise<void> {
  const chain = (flag: string, more = '') =>
    `name: r\napi: harbour\nsteps:\n  - call: list\n    request: GET /vessels?flag=${flag}\n${more}`;
  folder.write('chains/rehearsed.chain.yaml', chain('NO'));
  await folder.run(['run', 'chains/rehearsed.chain.yaml']);
  const more = '  - call: more\n    request: GET /berths\n';
  folder.write('chains/rehearsed.chain.yaml', value === 'more' ? chain('NO', more) : chain('PT'));
}

/** A run that made a file and failed, and a file that somebody has changed since. */
async function leftWith(folder: Folder, step: string, file: string): Promise<void> {
  folder.write('chains/left.chain.yaml', `name: left\napi: harbour\nsteps:\n${step}  - stop: too early\n`);
  await folder.run(['run', 'chains/left.chain.yaml']);
  folder.write(`chains/${file}`, 'a\n2\n');
}

function recordedRun(folder: Folder, lock: string): void {
  folder.write(
    'chains/add.chain.yaml',
    'name: add\napi: harbour\nsteps:\n  - call: add\n    request: POST /berths\n    keep: { id: $.id }\n  - say: "{id}"\n',
  );
  const request = { method: 'POST', url: 'http://127.0.0.1:1/v1/berths', headers: [] };
  const sent = { type: 'sent', x: 1, step: '1/add', key: 'add', purpose: 'call', tryNumber: 1, hop: 0, api: 'harbour' };
  const events = [
    {
      type: 'run',
      v: 2,
      run: 'r',
      tool: 'batharon',
      chain: 'chains/add.chain.yaml',
      name: 'add',
      files: [],
      inputs: {},
      remembered: {},
      apis: [],
      seed: 's',
      now: null,
      zone: 'UTC',
      options: {},
    },
    { ...sent, request, repeatable: false, changing: true, flushed: true },
  ];
  const lines = events.map((event, i) => `${JSON.stringify({ seq: i + 1, at: 1, ...event })}\n`).join('');
  folder.write('.batharon/runs/r/journal.ndjson', lines);
  folder.write('.batharon/runs/r/run.lock', lock);
}

describe('command lines', () => {
  let server: Server;
  beforeAll(async () => {
    server = createServer((request, response) => {
      if (request.url !== '/huge') return;
      response.setHeader('Content-Encoding', 'gzip').end(gzipSync(Buffer.alloc(65 * 1024 * 1024)));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  });
  afterAll(() => {
    server.closeAllConnections();
    server.close();
  });

  const asksOnTerminal = ({ command }: { command: string }) => command.startsWith('@accepting ');
  const commands = examples.flatMap(([code, example]) =>
    example && 'command' in example ? [[code, example] as const] : [],
  );
  for (const [code, example] of commands.filter(([, each]) => asksOnTerminal(each)))
    testWith(['script'], code, async () => {
      const folder = demoFolder();
      preparations['accepting']!(folder, '');
      const args = example.command.split(' ').slice(1);
      expect(await inTerminal(folder, args, [['? Write this', 'y']])).toContain(` ${code}`);
    });

  test.concurrent.each(commands.filter(([, example]) => !asksOnTerminal(example)))('%s', async (code, example) => {
    const [, preparation, value = '', line] = /^(?:@([\w-]+)(?:=(\S+))? )?(.*)$/.exec(example.command)!;
    const folder = demoFolder();
    if (preparation !== undefined) preparations[preparation]!(folder, value);
    const { port } = server.address() as { port: number };
    const args = line!.replace('127.0.0.1:4090', `127.0.0.1:${port}`).split(' ');
    if (preparation === 'recorded') await folder.run(['send', 'GET', '/berths', '--api', 'harbour']);
    if (preparation === 'rehearsed') await rehearsed(folder, value);
    if (preparation === 'edited') await leftWith(folder, '  - write: list.csv\n    row: { a: "1" }\n', 'list.csv');
    if (preparation === 'kept-secret')
      await leftWith(
        folder,
        "  - call: add\n    request: POST /berths\n    json: { name: N 9, depth: 7, quay: N }\n    keep: { token: 'secret($.id)' }\n",
        'notes.txt',
      );
    if (preparation === 'changed') {
      const add = '  - call: add\n    request: POST /berths\n    json: { name: N 9, depth: 7, quay: N }\n';
      await leftWith(folder, add, 'notes.txt');
      swap(folder, 'chains/left.chain.yaml', 'depth: 7', 'depth: 8');
    }
    if (preparation === 'resaved')
      await leftWith(
        folder,
        '  - call: add\n    request: POST /berths\n    json: { name: N 9, depth: 7, quay: N }\n    save: berth.json\n',
        'berth.json',
      );
    const more = preparation === 'hanging' ? ['--timeout', '200ms'] : [];
    const { all } = await folder.run([...args, ...more]);
    expect(all).toContain(code);
  });
});
