import { getEventListeners } from 'node:events';
import { onAbort } from '../../src/core/abort.ts';
import { Semaphore } from '../../src/core/pacing/semaphore.ts';
import { systemClock } from '../../src/adapters/clock.ts';

test('who waits for a signal is called once when it is aborted, and not when it has gone before', () => {
  const controller = new AbortController();
  const called: string[] = [];
  onAbort(controller.signal, () => called.push('stays'));
  const leave = onAbort(controller.signal, () => called.push('goes'));
  leave();
  controller.abort();
  controller.abort();
  expect(called).toEqual(['stays']);
});

test('many wait for one signal by one listener, and all of them end with it', async () => {
  const controller = new AbortController();
  const { signal } = controller;
  const semaphore = new Semaphore(1);
  expect(semaphore.tryTake()).toBe(true);
  const waits = Array.from({ length: 50 }, () => [semaphore.take(signal), systemClock.sleep(60_000, signal)]).flat();
  expect(getEventListeners(signal, 'abort')).toHaveLength(1);
  semaphore.give();
  controller.abort();
  const ended = await Promise.all(waits);
  expect(ended.filter((got) => got === true)).toHaveLength(1);
  expect(await semaphore.take(signal)).toBe(false);
  expect(semaphore.inUse).toBe(1);
});
