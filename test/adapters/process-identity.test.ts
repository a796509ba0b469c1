import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { FileLock } from '../../src/adapters/file-lock.ts';
import { runOwner } from '../../src/adapters/journal-files.ts';
import { identityIn, stateOfProcess, thisProcess } from '../../src/adapters/process-identity.ts';

let folder: string;
beforeEach(() => (folder = mkdtempSync(path.join(tmpdir(), 'identity-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const here = thisProcess();

test.each([
  ['this process', here, 'running'],
  ['a process that is gone', { ...here, pid: 2 ** 22 - 1 }, 'gone'],
  ['another process with the same number', { ...here, started: '1' }, 'gone'],
  ['a process of before the machine was started', { ...here, boot: 'another' }, 'gone'],
  ['a process of another machine', { ...here, host: 'elsewhere' }, 'unseen'],
  ['a process in another container', { ...here, space: 'pid:[1]' }, 'unseen'],
  ['a lock that says nothing', identityIn(''), 'unseen'],
  ['a lock that is damaged', identityIn('{"pid":'), 'unseen'],
] as const)('%s', (_what, identity, state) => {
  expect(stateOfProcess(identity)).toBe(state);
});

test('a zombie has ended', async () => {
  // The shell starts a child that ends, and becomes a program that never asks after it.
  const parent = spawn('sh', ['-c', 'sh -c "exit 0" & echo $!; exec sleep 30'], {
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  const pid = await new Promise<number>((resolve) => parent.stdout.once('data', (data) => resolve(Number(data))));
  let state = stateOfProcess({ ...here, pid, started: '' });
  for (let i = 0; i < 200 && state === 'running'; i++) {
    await new Promise((resolve) => setTimeout(resolve, 10));
    state = stateOfProcess({ ...here, pid, started: '' });
  }
  parent.kill('SIGKILL');
  expect(state).toBe('gone');
});

describe('a lock', () => {
  const lockOf = (text: string, ageMs = 0) => {
    const file = path.join(folder, 'a.limiter');
    writeFileSync(`${file}.lock`, text);
    const at = new Date(Date.now() - ageMs);
    utimesSync(`${file}.lock`, at, at);
    return new FileLock(file);
  };

  test.each([
    ['of a process that is gone', JSON.stringify({ ...here, pid: 2 ** 22 - 1 })],
    ['of another process with its number', JSON.stringify({ ...here, started: '1' })],
  ])('%s is broken', (_what, text) => {
    const lock = lockOf(text);
    expect(lock.tryLock()).toBe(false);
    lock.breakStale();
    expect(lock.tryLock()).toBe(true);
    lock.close();
  });

  test.each([
    ['of a process at work', JSON.stringify(here)],
    ['of another machine', JSON.stringify({ ...here, host: 'elsewhere' })],
    ['that is empty, and new', ''],
  ])('%s stands for the moment', (_what, text) => {
    const lock = lockOf(text);
    lock.breakStale();
    expect(lock.tryLock()).toBe(false);
    lock.close();
  });
});

test.each([
  ['a process at work', { ...here, pid: process.ppid, started: '' }, 0, process.ppid],
  ['a process that is gone', { ...here, pid: 2 ** 22 - 1 }, 0, undefined],
  ['another process with its number', { ...here, pid: process.ppid, started: '1' }, 0, undefined],
  ['another container that renews it', { ...here, pid: 7, space: 'pid:[1]' }, 0, 7],
  ['another container that is gone', { ...here, pid: 7, space: 'pid:[1]' }, 61_000, undefined],
  ['nobody, its text damaged', {}, 0, undefined],
])('a run whose lock is that of %s', (_what, identity, ageMs, owner) => {
  mkdirSync(path.join(folder, 'r'));
  const lock = path.join(folder, 'r', 'run.lock');
  writeFileSync(lock, JSON.stringify(identity));
  utimesSync(lock, new Date(), new Date(Date.now() - ageMs));
  expect(runOwner(path.join(folder, 'r'))).toBe(owner);
});
