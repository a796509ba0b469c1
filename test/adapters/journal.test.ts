import fc from 'fast-check';
import {
  appendFileSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { createMaskedOutput } from '../../src/adapters/masked-output.ts';
import { createJournalStore, newRunId, reopenJournalStore } from '../../src/adapters/journal-files.ts';
import { listRuns, readRun } from '../../src/adapters/journal-reader.ts';
import type { EventBody, JournalEvent } from '../../src/core/journal/events.ts';
import { heldJournal } from '../../src/core/journal/journal.ts';
import { isFact, Recorder } from '../../src/core/journal/recorder.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'batharon-journal-'));
afterAll(() => rmSync(folder, { recursive: true }));

const said = (message: string): EventBody => ({ type: 'note', code: 'x', level: 'info', message });

const open = (run: string, secrets: Readonly<Record<string, string>> = {}) => {
  const exit = createMaskedOutput();
  for (const [name, value] of Object.entries(secrets)) exit.masker.add(name, value);
  const store = createJournalStore(folder, run, exit);
  const heard: JournalEvent[] = [];
  let now = 1000;
  const clock = { nowMs: () => now++, sleep: async () => {}, monotonicMs: () => now };
  return {
    store,
    heard,
    recorder: new Recorder(clock, exit.masker, store, [(event) => void (isFact(event) && heard.push(event))]),
  };
};

test('events are numbered, stamped, written at once, and heard as they were written', async () => {
  const { store, heard, recorder } = open('a');
  recorder.record(said('one'), said('two'));
  expect(readRun(folder, 'a')!.events).toEqual(heard);
  expect(heard).toMatchObject([
    { seq: 1, at: 1000, message: 'one' },
    { seq: 2, at: 1001, message: 'two' },
  ]);
  expect(readdirSync(path.join(folder, 'runs/a')).sort()).toEqual(['journal.ndjson', 'run.lock']);
  await store.close();
  expect(readdirSync(path.join(folder, 'runs/a'))).toEqual(['journal.ndjson']);
});

test('what is written is masked, in the journal and for those who listen', async () => {
  const { store, heard, recorder } = open('b', { TOKEN: 'kvitnes-secret' });
  recorder.record(said('with kvitnes-secret inside'));
  expect(heard).toMatchObject([{ message: 'with ‹TOKEN› inside' }]);
  expect(recorder.body({ content: '{"a": "kvitnes-secret"}', type: 'application/json', as: 'json' })).toMatchObject({
    text: '{"a": "‹TOKEN›"}',
    masked: true,
  });
  expect(recorder.body({ content: Buffer.from('..kvitnes-secret..'), type: 'image/png', as: 'bytes' })).toMatchObject({
    dropped: 'binary-secret',
    size: 18,
  });
  await store.close();
});

test('bodies go by their size into the event, a pack, or a file of their own, equal ones once', async () => {
  const { store } = open('c');
  const small = store.storeBody('x'.repeat(2000), 'text/plain');
  const middle = store.storeBody('y'.repeat(5000), 'text/plain');
  const again = store.storeBody('y'.repeat(5000), 'text/plain');
  const other = store.storeBody(Buffer.from([1, 2, 3]), 'image/png');
  const large = store.storeBody(Buffer.alloc(9 * 1024 * 1024, 'z'), undefined);
  expect([small, middle, other, large]).toMatchObject([
    { text: expect.any(String) as string },
    { at: [1, 0, 5000] },
    { at: [1, 5000, 3] },
    { file: expect.any(String) as string },
  ]);
  expect(again).toBe(middle);
  await store.close();
  const run = readRun(folder, 'c')!;
  expect(Buffer.from(run.body(middle)!).toString()).toBe('y'.repeat(5000));
  expect([...run.body(other)!]).toEqual([1, 2, 3]);
  expect(run.body(large)!.length).toBe(9 * 1024 * 1024);
});

test('a torn last line is passed over, and a second writer is refused', () => {
  const { recorder } = open('d');
  recorder.record(said('whole'));
  appendFileSync(path.join(folder, 'runs/d/journal.ndjson'), '{"seq":2,"at":');
  expect(readRun(folder, 'd')!.events).toHaveLength(1);
  expect(() => open('d')).toThrow(/EEXIST/);
});

test('files are private, runs are listed newest first, and ids are never taken twice', async () => {
  const { store, recorder } = open('e');
  recorder.record(said('late'));
  await store.close();
  expect(statSync(path.join(folder, 'runs/e/journal.ndjson')).mode & 0o777).toBe(0o600);
  expect(readFileSync(path.join(folder, '.gitignore'), 'utf8')).toBe('*\n');
  expect(listRuns(folder)[0]).toBe('e');
  expect(readRun(folder, 'gone')).toBeUndefined();
  const draws = [0, 0, 0.99, 0.5];
  const id = newRunId(folder, new Date(2026, 4, 23, 14, 12), () => draws.shift()!);
  expect(id).toBe('0523-1412-00');
});

describe('a journal that is not held', () => {
  const file = path.join(folder, 'runs/f/journal.ndjson');
  const lengths = fc.array(fc.oneof(fc.nat(60), fc.integer({ min: 4000, max: 40_000 })), { maxLength: 12 });
  const torn = fc.constantFrom('', '{', '{"seq":9,"at":1,"message":"' + 'y'.repeat(5000));
  const eventOf = (length: number, i: number) => ({ seq: i + 1, at: i, ...said('å'.repeat(length)) }) as JournalEvent;

  test('is gone over, found again by its places, and has the last event that is whole', () => {
    mkdirSync(path.dirname(file), { recursive: true });
    fc.assert(
      fc.property(lengths, torn, (sizes, rest) => {
        const events = sizes.map(eventOf);
        writeFileSync(file, events.map((event) => `${JSON.stringify(event)}\n`).join('') + rest);
        const { journal } = readRun(folder, 'f')!;
        const passed = heldJournal(events);
        expect([...journal]).toEqual([...passed]);
        expect(journal.last()).toEqual(passed.last());
        for (const each of [journal, passed]) expect([...each.backwards()]).toEqual([...events].reverse());
        for (const each of [journal, passed])
          for (const [event, place] of each.placed()) expect(each.at(place)).toEqual(event);
      }),
    );
  });

  test('is cut behind that event when it is gone on with', async () => {
    for (const [count, rest] of [
      [0, '{"seq":1'],
      [2, ''],
      [3, 'z'.repeat(9000)],
    ] as const) {
      const whole = Array.from({ length: count }, (_, i) => `${JSON.stringify(eventOf(3000, i))}\n`).join('');
      writeFileSync(file, whole + rest);
      await reopenJournalStore(folder, 'f', createMaskedOutput()).close();
      expect(readFileSync(file, 'utf8')).toBe(whole);
    }
  });
});

test('however many journals are read, few files stay open', () => {
  const openFiles = () => readdirSync('/proc/self/fd').length;
  const before = openFiles();
  for (let i = 0; i < 60; i++) {
    const place = path.join(folder, 'runs', `many-${i}`);
    mkdirSync(place, { recursive: true });
    writeFileSync(path.join(place, 'journal.ndjson'), '{"seq":1,"at":1,"type":"said","step":"1/say","text":"x"}\n');
    expect(readRun(folder, `many-${i}`)!.journal.at(0)).toMatchObject({ text: 'x' });
  }
  expect(openFiles() - before).toBeLessThanOrEqual(16);
});

describe('a damaged journal', () => {
  const whole = async (run: string) => {
    const { store, recorder } = open(run);
    for (const word of ['one', 'two', 'three', 'four']) recorder.record(said(word));
    await store.close();
    return path.join(folder, 'runs', run, 'journal.ndjson');
  };
  const words = (run: string) => readRun(folder, run)!.events.map((event) => ('message' in event ? event.message : ''));

  test.each([
    ['that is not JSON', (lines: string[]) => lines.splice(1, 1, '{"seq": 2, "ty')],
    ['that is no event', (lines: string[]) => lines.splice(1, 1, '["two"]')],
    ['that is null', (lines: string[]) => lines.splice(1, 1, 'null')],
    ['that is empty', (lines: string[]) => lines.splice(1, 1, '')],
    ['of zeros', (lines: string[]) => lines.splice(1, 1, '\0'.repeat(40))],
    ['without its number', (lines: string[]) => lines.splice(1, 1, lines[1]!.replace('"seq":2', '"seq":"2"'))],
    ['out of order', (lines: string[]) => lines.splice(1, 1, lines[0]!)],
  ])('with a line %s is read without it, from both ends', async (what, damage) => {
    const run = `damaged-${what.replace(/\W+/g, '-')}`;
    const file = await whole(run);
    const lines = readFileSync(file, 'utf8').trimEnd().split('\n');
    damage(lines);
    writeFileSync(file, `${lines.join('\n')}\n`);
    expect(words(run)).toEqual(['one', 'three', 'four']);
    expect(readRun(folder, run)!.journal.last()).toMatchObject({ message: 'four' });
    expect([...readRun(folder, run)!.journal.backwards()].at(0)).toMatchObject({ message: 'four' });
  });

  test('whose last line is damaged ends with the one before', async () => {
    const file = await whole('damaged-end');
    writeFileSync(file, readFileSync(file, 'utf8').replace(/"four".*\n$/, '\n'));
    expect(readRun(folder, 'damaged-end')!.journal.last()).toMatchObject({ message: 'three' });
  });

  test('is read whatever stands in it', async () => {
    const file = await whole('damaged-any');
    const good = readFileSync(file);
    fc.assert(
      fc.property(fc.nat(good.length - 1), fc.uint8Array({ maxLength: 30 }), (at, bytes) => {
        writeFileSync(file, Buffer.concat([good.subarray(0, at), bytes, good.subarray(at + bytes.length)]));
        expect(readRun(folder, 'damaged-any')!.events.length).toBeLessThanOrEqual(5);
        readRun(folder, 'damaged-any')!.journal.last();
      }),
      { numRuns: 300 },
    );
  });
});
