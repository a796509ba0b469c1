import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { cpSync } from 'node:fs';
import { useCounting } from '../support/counting.ts';
import { describeWith } from '../support/needs.ts';
import { PROGRAM, type Folder } from '../support/program.ts';
import { startRedis } from '../support/redis.ts';

/** Machines and Redis servers that are killed in turns; `npm run soak` kills very many. */
const KILLS = Math.min(200, Number(process.env['SOAK'] ?? 8));
const ITEMS = KILLS > 8 ? 600 : 120;

const { counting, projectWith } = useCounting();

const CHAIN = `steps:
  - call: begin
    once: first-slice
    request: POST /begin
    idempotency-key: true
  - each: n in range(${ITEMS})
    concurrency: 2
    steps:
      - call: make
        request: POST /make/{n}
        idempotency-key: true
        keep: { made: $.id }
    gather: { all: "{made}" }
  - call: end
    once: last-slice
    request: POST /end
    idempotency-key: true
outputs: [all]
`;

describeWith(['redis-server'], 'a fleet', () => {
  test(
    'machines and Redis are killed at any moment: nothing is done twice, nothing is lost, and the report is that of an unbroken run',
    async () => {
      const redis = await startRedis();
      const env = { ...process.env, BATHARON_REDIS: redis.url };
      const machines = [1, 2, 3].map(() => limited());
      const running = new Map<Folder, ChildProcess>();
      const start = async (folder: Folder): Promise<void> => {
        const open = await openRun(folder);
        const args = open === undefined ? ['run', 'c.chain.yaml', '--slices', '8'] : ['resume', open];
        running.set(
          folder,
          spawn(process.execPath, [PROGRAM, ...args, '--no-prompt'], { cwd: folder.path, env, stdio: 'ignore' }),
        );
      };
      for (const folder of machines) await start(folder);
      for (let kill = 0; kill < KILLS; kill++) {
        await pause(60 + Math.random() * 250);
        if (kill % 4 === 3) {
          await redis.stop('SIGKILL');
          await pause(Math.random() * 200);
          await redis.start();
        } else {
          const folder = machines[kill % machines.length]!;
          running.get(folder)!.kill('SIGKILL');
        }
        for (const folder of machines) if (hasEnded(running.get(folder)!)) await start(folder);
      }
      // What is left is done by those that are still there, until nobody finds anything.
      for (let isOver = false; !isOver;) {
        await Promise.all(
          machines.map(async (folder) => hasEnded(running.get(folder)!) || once(running.get(folder)!, 'exit')),
        );
        const open = await Promise.all(machines.map(openRun));
        const left = await machines[0]!.run(['slices', '--as', 'json'], { env: { BATHARON_REDIS: redis.url } });
        const [{ slices }] = JSON.parse(left.out) as [{ slices: { state: string }[] }];
        isOver = slices.every(({ state }) => state === 'done') && open.every((run) => run === undefined);
        if (!isOver) for (const folder of machines) await start(folder);
      }
      for (const [, keys] of counting.keys) expect(new Set(keys).size).toBe(1);
      expect(counting.keys.size).toBe(ITEMS + 2);
      const [first, ...others] = machines;
      for (const { path } of others)
        cpSync(`${path}/.batharon/runs`, `${first!.path}/.batharon/runs`, { recursive: true });
      await first!.run(['report', 'json=r.json']);
      const whole = projectWith(CHAIN);
      await whole.run(['run', 'c.chain.yaml']);
      await whole.run(['report', 'json=r.json']);
      expect(plain(first!.read('r.json'))).toEqual(plain(whole.read('r.json')));
      await redis.close();
    },
    KILLS > 8 ? 1_200_000 : 120_000,
  );

  function limited(): Folder {
    const folder = projectWith(CHAIN);
    folder.write('batharon.yaml', `apis:\n  a:\n    url: ${counting.url}\n    rate-limit: 200/s\n    max-wait: 20s\n`);
    return folder;
  }
});

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
const hasEnded = ({ exitCode, signalCode }: ChildProcess) => exitCode !== null || signalCode !== null;

/** A run of a machine that did not end. */
async function openRun(folder: Folder): Promise<string | undefined> {
  const { out } = await folder.run(['runs', '--as', 'json', '--count', '100']);
  const runs = (out === '' ? [] : JSON.parse(out)) as { run: string; result: string }[];
  return runs.find(({ result }) => result !== 'passed' && result !== 'under way')?.run;
}

/** A report but for times and the order of what was done at the same time. */
function plain(text: string) {
  const [{ totals, outcome, outputs, calls }] = (
    JSON.parse(text) as {
      runs: [
        {
          totals: Record<string, number>;
          outcome: string;
          outputs: object;
          calls: { address: string; status: number }[];
        },
      ];
    }
  ).runs;
  const { calls: count, failed, expects, passed } = totals;
  return {
    outcome,
    outputs,
    totals: { count, failed, expects, passed },
    calls: calls.map(({ address, status }) => `${address} ${status}`).sort(),
  };
}
