// Runs whose POSTs must not be sent twice are killed and cut off, answered for, edited and renamed between generations, and
// gone on with until they pass. The server counts: each change is made once, and once more for each --resend. KILLS sets how
// many kills there are (1,000), SEED the order of everything.
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
const program = path.join(root, 'dist/batharon.cjs');
const KILLS = Number(process.env.KILLS ?? 1000);
const SEED = Number(process.env.SEED ?? Date.now() % 1_000_000);
const ITEMS = 16;

/** Mulberry32: the same numbers for the same seed. */
let state = SEED;
function random() {
  state = (state + 0x6d2b79f5) | 0;
  let bits = Math.imul(state ^ (state >>> 15), 1 | state);
  bits = (bits + Math.imul(bits ^ (bits >>> 7), 61 | bits)) ^ bits;
  return ((bits ^ (bits >>> 14)) >>> 0) / 4_294_967_296;
}
const chance = (part) => random() < part;

const chainOf = ({ name, rev }) => `name: c
api: a
steps:
  - each: n in range(${ITEMS})
    concurrency: 4
    steps:
      - { call: ${name}, request: "POST /make/{n}", json: { n: "{n}", rev: ${rev} }, keep: { id: $.id } }
      - { call: use, request: "GET /use/{id}" }
  - { call: close, request: POST /close }
`;

/** What the server did, by path; and when whoever watches is told. */
let done = new Map();
let arrived = () => {};
const server = createServer((request, response) => {
  request.resume().on('end', () => {
    const { method, url } = request;
    const process = () => method === 'POST' && done.set(url, (done.get(url) ?? 0) + 1);
    if (method === 'POST') arrived();
    // Some requests are lost on their way to the server, and some answers on their way back.
    if (method === 'POST' && chance(0.03)) return request.socket.destroy();
    process();
    if (method === 'POST' && chance(0.03)) return request.socket.destroy();
    setTimeout(
      () =>
        response
          .setHeader('Content-Type', 'application/json')
          .end(JSON.stringify({ id: `id-${url.split('/').pop()}` })),
      3,
    );
  });
}).listen(0, '127.0.0.1');
await new Promise((resolve) => server.once('listening', resolve));
const url = `http://127.0.0.1:${server.address().port}`;

function run(folder, args, killAfter) {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [program, ...args], {
      cwd: folder,
      env: { PATH: process.env.PATH, COLUMNS: '200' },
    });
    let text = '';
    child.stdout.on('data', (data) => (text += data));
    child.stderr.on('data', (data) => (text += data));
    let left = killAfter;
    arrived = () => (left === undefined || --left > 0 ? undefined : child.kill('SIGKILL'));
    child.on('close', (status) => resolve({ status, text }));
  });
}

/** One run from its first request to its end, through as many generations as it takes. */
async function through(mayKill) {
  done = new Map();
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-settling-'));
  writeFileSync(path.join(folder, 'batharon.yaml'), `apis: { a: { url: "${url}", concurrency: 4 } }\n`);
  const says = { name: 'make', rev: 1 };
  // A call of another name and another request is another call.
  const isRenaming = chance(0.5);
  const write = () => writeFileSync(path.join(folder, 'c.chain.yaml'), chainOf(says));
  write();
  const log = [];
  /** Changes that were asked for once more, by path; items by address, as messages name them. */
  const resent = new Map();
  const items = new Map();
  let [kills, generations, answers, isBegun] = [0, 0, [], false];
  const fail = (why, text) => {
    throw new Error(`${why} (seed ${SEED}, ${folder})\n${log.join('\n')}\n${text}`);
  };
  for (; generations < 400; generations++) {
    const before = total();
    const args = isBegun ? ['resume', '--no-prompt', ...answers] : ['run', 'c.chain.yaml', '--no-prompt'];
    const { status, text } = await run(
      folder,
      args,
      mayKill(kills) && chance(0.6) ? 1 + Math.floor(random() * 6) : undefined,
    );
    if (process.env.TELL) console.log(text);
    log.push(`${args.join(' ')}: ${status}, ${total() - before} changes, ${says.name} ${says.rev}`);
    if (status === 0) break;
    isBegun ||= existsSync(path.join(folder, '.batharon/runs'));
    answers = [];
    if (status === null) kills++;
    else if (status === 3 || status === 1) answers = answersTo(text);
    else fail(`it ended with ${status}`, text);
    if (
      / in doubt|never answered/.test(text) &&
      answers.length > 0 &&
      status === 3 &&
      total() !== before &&
      isQuestion(text)
    )
      fail('something was sent while a request was in doubt', text);
    if (answers.length > 0 && answers.join(' ') === args.slice(2).join(' ') && total() === before)
      fail('an answer changed nothing', text);
    if (answers.length > 0) continue;
    if (isRenaming && chance(0.4)) says.name = says.name === 'make' ? 'create' : 'make';
    if (!isRenaming && chance(0.4)) says.rev++;
    write();
  }
  const wrong = [...Array(ITEMS).keys()]
    .map((n) => `/make/${n}`)
    .concat('/close')
    .filter((at) => (done.get(at) ?? 0) !== 1 + (resent.get(at) ?? 0));
  const [first] = wrong;
  if (generations === 400) fail('it never passed', '');
  if (first) fail(`${first} was done ${done.get(first) ?? 0} times, wanted ${1 + (resent.get(first) ?? 0)}`, '');
  rmSync(folder, { recursive: true, force: true });
  return { kills, generations };

  /** What is true, as the options say it: of requests in doubt what the server did, of changed ones one of the two. */
  function answersTo(text) {
    const doubts = [...text.matchAll(/^ *(\S+\/\w+) +POST \S+?(\/make\/\d+|\/close) was sent/gm)];
    for (const [, address, at] of doubts) items.set(numberOf(address), at);
    if (doubts.length > 0) return doubts.flatMap(([, address, at]) => settled(address, at));
    const unknown = [...text.matchAll(/--kept (\S+\/\w+):id=VALUE/g)].map(([, address]) => address);
    const known = [...new Set(unknown)].flatMap((address) => kept(address, items.get(numberOf(address))));
    if (!/changed-since-sent/.test(text)) return known;
    const address = /--resend (\S+\/\w+)/.exec(text)?.[1];
    const at = /POST \S+?(\/make\/\d+)/.exec(text)?.[1];
    if (!address || !at || known.length > 0 || chance(0.8)) return [...known, '--skip', 'all'];
    resent.set(at, (resent.get(at) ?? 0) + 1);
    items.set(numberOf(address), at);
    return ['--resend', address];
  }

  function settled(address, at) {
    const wanted = (resent.get(at) ?? 0) + 1;
    if ((done.get(at) ?? 0) < wanted) return ['--not-sent', address];
    return at !== '/close' && chance(0.5) ? kept(address, at) : ['--sent', address];
  }

  function kept(address, at) {
    if (at === undefined) fail(`nothing is known of ${address}`, '');
    return ['--kept', `${address}:id="id-${at.split('/').pop()}"`];
  }
}

/** `1#3.1` of `1#3.1/make`: what stays when a call is renamed. */
const numberOf = (address) => address.split('/')[0];
const isQuestion = (text) => /--not-sent/.test(text);
const total = () => [...done.values()].reduce((sum, count) => sum + count, 0);

let [killed, generations, runs] = [0, 0, 0];
try {
  while (killed < KILLS) {
    const left = KILLS - killed;
    const told = await through((kills) => kills < Math.min(left, 8));
    killed += told.kills;
    generations += told.generations;
    runs++;
    if (runs > 20 * KILLS) throw new Error('nothing is killed');
  }
  console.log(
    `${killed} kills in ${generations} generations of ${runs} runs: every change was made as often as was said (seed ${SEED})`,
  );
} catch (error) {
  console.log(error.message);
  process.exitCode = 1;
}
server.close();
server.closeAllConnections();
