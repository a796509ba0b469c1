import { LiveBlock } from '../../src/cli/view/live-block.ts';
import { Loops, progressWords } from '../../src/cli/view/loops.ts';
import { paletteOf } from '../../src/cli/view/palette.ts';
import { StepLines } from '../../src/cli/view/step-lines.ts';
import { UnderWay } from '../../src/cli/view/under-way.ts';
import type { JournalEvent, ListenerEvent } from '../../src/core/journal/events.ts';

/** A loop of `total` items of one call each, at moments in milliseconds: when each was sent, if it was, and ended. */
function follow(total: number, items: readonly Readonly<{ sent?: number; ended: number; failed?: true }>[]): string {
  const loops = new Loops();
  const add = (event: object) => loops.add(event as JournalEvent);
  add({ type: 'opened', kind: 'each', step: '2/each', at: 0, total, steps: 1 });
  items.forEach(({ sent, ended, failed }, i) => {
    const step = `2#${i + 1}.1/ask`;
    if (sent !== undefined) add({ type: 'sent', step, at: sent });
    const outcome = failed ? 'failed' : sent === undefined ? 'reused' : 'passed';
    add({ type: 'ended', kind: 'call', step, outcome, at: ended });
  });
  return progressWords(loops.all()[0]!, items.at(-1)?.ended ?? 0);
}

const each = (count: number, from: number, every: number) =>
  Array.from({ length: count }, (_, i) => ({ sent: from + i * every, ended: from + (i + 1) * every }));
const reused = (count: number) => Array.from({ length: count }, () => ({ ended: 5 }));

test.each<[string, string]>([
  ['0 of 40,000', follow(40_000, [])],
  ['100 of 1,000, about 45 s left', follow(1000, each(100, 0, 50))],
  [
    '100 of 1,000, 1 failed, about 45 s left',
    follow(1000, [...each(99, 0, 50), { sent: 1, ended: 5000, failed: true }]),
  ],
  ['100 of 100', follow(100, each(100, 0, 100))],
  // What has just become ten times slower is reckoned as it is now.
  ['400 of 1,000, about 10 min left', follow(1000, [...each(300, 0, 100), ...each(100, 30_000, 1000)])],
  // Nothing is said of items whose responses were there already, nor reckoned from them.
  ['500 of 1,000', follow(1000, reused(500))],
  ['600 of 1,000, about 40 s left', follow(1000, [...reused(500), ...each(100, 5, 100)])],
])('%s', (expected, words) => expect(words).toBe(expected));

describe('what is under way', () => {
  const told = (columns: number, ...events: readonly object[]) => {
    const loops = new Loops();
    const loopHead = () => 'vessel in due';
    const requestText = () => 'GET /slow';
    const underWay = new UnderWay(loops, {
      lines: new StepLines({
        widths: { nameWidth: 12, numberWidth: 5 },
        palette: paletteOf(false),
        columns: () => columns,
      }),
      columns: () => columns,
      loopHead,
      requestText,
    });
    for (const event of events) {
      loops.add(event as JournalEvent);
      underWay.add(event as ListenerEvent);
    }
    return underWay.lines(5000);
  };
  const loop = { type: 'opened', kind: 'each', step: '2/each', at: 0, total: 400, steps: 2 };
  const sent = (x: number, at = 4900) => ({ type: 'sent', x, at, step: `2#${x}.1/ask` });
  const ended = (number: number, outcome = 'passed') => ({
    type: 'ended',
    kind: 'item',
    step: `2#${number}`,
    outcome,
    at: 4000,
  });
  const waits = (step: string, why: string, more: object = {}) => ({ type: 'waiting', step, why, ...more });
  const looked = {
    type: 'attempted',
    step: '3/watch',
    attempt: 2,
    seen: { '$.state': { json: 'queued' } },
    progress: 40,
  };

  test.each<[string, number, readonly object[], readonly string[]]>([
    ['nothing', 80, [{ ...sent(1), step: '1/ask' }], []],
    [
      'a request that takes long',
      80,
      [{ ...sent(1, 3000), step: '1/ask' }],
      [' 1     ask           GET /slow   no response for 2.0 s'],
    ],
    [
      'a request that was answered',
      80,
      [
        { ...sent(1, 3000), step: '1/ask' },
        { type: 'answered', x: 1 },
      ],
      [],
    ],
    [
      'a loop, with what it does',
      80,
      [
        loop,
        ended(1),
        ended(2, 'failed'),
        sent(3),
        sent(4),
        waits('2#5.1/ask', 'rate-limit', { detail: '8/s', until: 5400 }),
      ],
      [
        ' 2     vessel in due   ░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░   2 of 400',
        '       1 failed, 2 in flight, waiting 400 ms for the rate limit 8/s',
      ],
    ],
    ['the same where there is little room', 30, [loop, ended(1)], [' 2     vessel in due   1 of …']],
    [
      'several that wait for the same',
      80,
      [loop, waits('2#1.1/a', 'poll', { until: 9000 }), waits('2#2.1/a', 'poll', { until: 5100 })],
      [
        ' 2     vessel in due   ░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░   0 of 400',
        '       2 waiting for the next poll (100 ms)',
      ],
    ],
    [
      'a poll alone',
      80,
      [looked, waits('3/watch', 'poll', { until: 5800 })],
      [" 3     watch         ██████░░░░░░░░░░░ 40 %   poll 2: 'queued', next in 800 ms"],
    ],
    [
      'rounds',
      80,
      [
        { ...loop, kind: 'repeat' },
        { type: 'opened', kind: 'round', step: '2#3', round: 3, at: 1 },
        { ...looked, step: '2/each' },
      ],
      [" 2     vessel in due   round 3: 'queued'"],
    ],
    ['nothing while somebody is asked', 80, [loop, waits('2#1.1/a', 'ask')], []],
  ])('%s', (_name, columns, events, lines) => expect(told(columns, ...events)).toEqual(lines));
});

describe('lines that move', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());

  /** What stands in a terminal after all that was written: the few signs that are used of its language. */
  const screenOf = (written: string): readonly string[] => {
    const lines = [''];
    let [row, column] = [0, 0];
    for (const [, control, up, text] of written.matchAll(
      /(\r|\n|\u001b\[J|\u001b\[\?25.)|\u001b\[(\d+)A|([^\r\n\u001b]+)/g,
    )) {
      if (up) row -= Number(up);
      else if (control === '\r') column = 0;
      else if (control === '\n') [row, column] = [row + 1, 0];
      else if (control === '\u001b[J') {
        lines[row] = lines[row]!.slice(0, column);
        lines.length = row + 1;
      } else if (text) {
        lines[row] =
          (lines[row] ?? '').padEnd(column).slice(0, column) + text + (lines[row] ?? '').slice(column + text.length);
        column += text.length;
      }
      lines[row] ??= '';
    }
    return lines;
  };

  test('stand below what stays, change in place, and leave nothing behind', () => {
    let written = '';
    let others = (): void => {};
    const write = (text: string) => {
      others();
      written += text;
    };
    const block = new LiveBlock(write, (listener) => void (others = listener));
    let lines = ['bar 1', 'eight in flight'];
    block.set(() => lines);
    block.above('first\n');
    expect(screenOf(written)).toEqual(['first', '']);
    jest.advanceTimersByTime(100);
    expect(screenOf(written)).toEqual(['first', 'bar 1', 'eight in flight']);
    block.above('second\n');
    lines = ['bar 2'];
    jest.advanceTimersByTime(1000);
    expect(screenOf(written)).toEqual(['first', 'second', 'bar 2']);
    write('another says\n');
    expect(screenOf(written)).toEqual(['first', 'second', 'another says', '']);
    jest.advanceTimersByTime(1000);
    block.end();
    expect(screenOf(written)).toEqual(['first', 'second', 'another says', '']);
    const before = written;
    jest.advanceTimersByTime(5000);
    expect(written).toBe(before);
    expect(written.lastIndexOf('\u001b[?25h')).toBeGreaterThan(written.lastIndexOf('\u001b[?25l'));
  });
});
