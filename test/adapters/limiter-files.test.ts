import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { limiterFiles } from '../../src/adapters/limiter-files.ts';
import { emptyHead } from '../../src/core/pacing/limiter-state.ts';

let folder: string;
beforeEach(() => (folder = mkdtempSync(path.join(tmpdir(), 'batharon-limiters-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const limiterOf = () => {
  const store = limiterFiles(folder);
  return { store, limiter: store.open('a', 8, 60_000) };
};

test('a rate limiter outlives its process, keeps what both rings have, and tells planned from sent', async () => {
  const { store, limiter } = limiterOf();
  await store.withLock([limiter], ([state]) => void (state!.head.taken = 6));
  limiter.put(4, { at: 400 });
  limiter.put(5, { at: 500, owner: store.owner });
  store.close();
  const again = limiterFiles(folder);
  const larger = again.open('a', 20, 60_000).look();
  expect(larger.head.taken).toBe(6);
  expect([larger.slot(4), larger.slot(5), larger.slot(6), larger.slot(-1)]).toEqual([
    { at: 400 },
    { at: 500, owner: store.owner },
    undefined,
    undefined,
  ]);
  again.close();
});

test('a half that is torn leaves the other; when nothing can be read the rate limiter is closed for a window', async () => {
  const { store, limiter } = limiterOf();
  for (const used of [1, 2]) {
    await store.withLock([limiter], ([state]) => void (state!.head.quotas.day = { from: 0, used }));
  }
  const [file] = readdirSync(folder).filter((name) => name.endsWith('.limiter'));
  const whole = path.join(folder, file!);
  writeFileSync(whole, Buffer.concat([Buffer.from('{"torn'), Buffer.alloc(2042)]), { flag: 'r+' });
  expect(limiter.look().head.quotas.day!.used).toBe(1);
  writeFileSync(whole, Buffer.alloc(4096, 'x'));
  expect(limiter.look().head.closedUntil).toBeGreaterThan(Date.now() + 50_000);
  store.close();
});

test('the lock of a process that is gone is broken, that of one that lives is not', async () => {
  const { store, limiter } = limiterOf();
  const [file] = readdirSync(folder).filter((name) => name.endsWith('.limiter'));
  const lock = path.join(folder, `${file}.lock`);
  const gone = spawn(process.execPath, ['-e', '0']);
  await once(gone, 'exit');
  writeFileSync(lock, JSON.stringify({ pid: gone.pid, host: (await import('node:os')).hostname() }));
  await store.withLock([limiter], ([state]) => void Object.assign(state!.head, emptyHead()));
  expect(readdirSync(folder).filter((name) => name.includes('.lock'))).toEqual([]);
  store.close();
});
