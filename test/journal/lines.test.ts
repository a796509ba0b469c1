import fc from 'fast-check';
import type { EventBody, JournalEvent } from '../../src/core/journal/events.ts';
import { FORM, LineReader } from '../../src/core/journal/line-reader.ts';
import { LineWriter } from '../../src/core/journal/line-writer.ts';
import { Recorder } from '../../src/core/journal/recorder.ts';
import { noStore } from '../../src/core/journal/no-store.ts';
import { Masker } from '../../src/core/masking/masker.ts';
import { systemClock } from '../../src/adapters/clock.ts';

const sent = (x: number, name: string, more: object = {}): EventBody => ({
  type: 'sent',
  x,
  step: `1#${x}.1/${name}`,
  key: `each:berth{N${x}}/${name}`,
  purpose: 'call',
  tryNumber: 1,
  hop: 0,
  api: 'harbour',
  request: { method: 'GET', url: `http://127.0.0.1/berths/${x}`, headers: [['Accept', '*/*']] },
  repeatable: true,
  changing: false,
  flushed: false,
  ...more,
});
const ended = (x: number, name: string, more: object = {}): EventBody => ({
  type: 'ended',
  step: `1#${x}.1/${name}`,
  key: `each:berth{N${x}}/${name}`,
  kind: 'call',
  name,
  outcome: 'passed',
  ms: x / 10,
  x: [x],
  ...more,
});

/** Lines as a journal holds them. */
function written(bodies: readonly EventBody[], writer = new LineWriter()): readonly string[] {
  return bodies.flatMap((body, i) => {
    const row = writer.row(body, i + 1, 1000 + i);
    return row === undefined ? writer.lines(body, i + 1, 1000 + i) : [row];
  });
}

function read(lines: readonly string[]): readonly JournalEvent[] {
  const reader = new LineReader();
  return lines.map((line) => reader.read(line)).filter((event) => event !== undefined && event !== FORM);
}

const numbered = (bodies: readonly EventBody[]) => bodies.map((body, i) => ({ seq: i + 1, at: 1000 + i, ...body }));
const many = (count: number) => Array.from({ length: count }, (_, i) => [sent(i, 'quay'), ended(i, 'quay')]).flat();

test('whatever is recorded is read again as it was', () => {
  const more = fc.constantFrom<object>({}, { page: 2 }, { x: [1, 2] }, { why: 'null' }, { requestFingerprint: 'p' });
  const body = fc
    .tuple(fc.constantFrom(sent, ended), fc.nat(9), fc.constantFrom('quay', 'a/b', 'c~d', 'tide'), more)
    .map(([make, x, name, extra]) => make(x, name, make === sent && 'x' in extra ? {} : extra));
  fc.assert(
    fc.property(fc.array(body, { maxLength: 120 }), (bodies) => {
      expect(read(written(bodies))).toEqual(numbered(bodies));
    }),
  );
});

test('a few events stand there whole; of many of one step each is a row with what differs', () => {
  expect(written(many(4)).every((line) => line.startsWith('{"seq"'))).toBe(true);
  const lines = written(many(500));
  const whole = lines.filter((line) => line.startsWith('{"seq"'));
  expect(whole.length).toBeLessThanOrEqual(20);
  expect(lines.at(-1)).toMatch(/^\[\d+,1000,1999,"1#499.1\/quay","each:berth\{N499\}\/quay",49.9,499\]$/);
});

test('steps that come once each are rows, too', () => {
  const bodies = Array.from({ length: 100 }, (_, i) => sent(i, `berth-${i}`));
  const lines = written(bodies);
  expect(lines.filter((line) => line.startsWith('[')).length).toBeGreaterThan(80);
  expect(read(lines)).toEqual(numbered(bodies));
});

test('no damage to one line takes more with it than the event of that line', () => {
  const bodies = many(60);
  const lines = written(bodies);
  const forms = lines.flatMap((line, i) => (line.startsWith('{"form"') ? [i] : []));
  expect(forms.length).toBeGreaterThan(2);
  for (const at of lines.keys()) {
    const rest = lines.filter((_, i) => i !== at);
    const reader = new LineReader();
    // As a file is read whose rows name a form that was not met yet.
    for (const line of rest) if (line.startsWith('{"form"')) reader.read(line);
    const events = rest.map((line) => reader.read(line)).filter((event) => event !== undefined && event !== FORM);
    expect(events.length).toBeGreaterThanOrEqual(bodies.length - 1);
  }
});

test.each([
  ['that names no form', '[7,1,1]'],
  ['of another length', '[1,2,3,4]'],
  ['that is empty', '[]'],
])('a row %s is damaged', (_, line) => {
  const reader = new LineReader();
  reader.read('{"form":1,"varies":["/text"],"of":{"type":"said","step":"1/say","text":"x"}}');
  expect(reader.read('[1,2,3,"y"]')).toEqual({ seq: 2, at: 3, type: 'said', step: '1/say', text: 'y' });
  expect([reader.read(line), reader.read('[1,2,3,4]'), reader.read('[1,"2",3,"y"]')]).toEqual(Array(3).fill(undefined));
});

test.each([
  '{"form":1,"varies":["/step"],"of":{"type":"said"}}',
  '{"form":1,"varies":["/other"],"of":{"type":"said","step":"1/say","text":"x"}}',
  '{"form":"1","varies":[],"of":{"type":"said","step":"1/say","text":"x"}}',
  '{"form":1,"varies":{},"of":[]}',
])('a form that is none is damaged: %s', (line) => {
  expect(new LineReader().read(line)).toBeUndefined();
});

test('what is secret since a form was written is in no row and in no event that is shown', () => {
  const masker = new Masker();
  let text = '';
  const shown: unknown[] = [];
  const store = { ...noStore(), append: (lines: string) => void (text += lines) };
  const recorder = new Recorder(systemClock, masker, store, [(event) => void shown.push(event)]);
  const said = (word: string): EventBody => ({ type: 'said', step: '1/say', text: `tide ${word}` });
  for (let i = 0; i < 20; i++) recorder.record(said(`canary-${i % 2}`));
  masker.add('TIDE', 'canary-1');
  const before = text.length;
  for (let i = 0; i < 20; i++) recorder.record(said(`canary-${i % 2}`));
  expect(text.slice(before)).not.toContain('canary-1');
  expect(JSON.stringify(shown.slice(20))).not.toContain('canary-1');
  expect(read(text.trimEnd().split('\n'))).toEqual(shown);
});
