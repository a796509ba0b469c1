import axe from 'axe-core';
import path from 'node:path';
import type { Browser } from 'playwright-core';
import { pageOf } from '../../src/core/report/formats/html/page.tsx';
import type { CallSummary } from '../../src/core/report/call-summary.ts';
import { causesOf } from '../../src/core/report/failure-causes.ts';
import type { RunSummary } from '../../src/core/report/run-summary.ts';
import { useDemo } from '../support/harbour.ts';
import { describeWith, openBrowser } from '../support/needs.ts';

const demo = useDemo();
const ARRIVALS = 'chains/arrivals.chain.yaml';

/** A call as reports tell it, and a run of very many of them, each told when it is gone over. */
function runOf(count: number, body = ''): RunSummary {
  const failure = (i: number) => ({
    step: 'vessel',
    item: `item ${i} of due`,
    items: String(i),
    hasExchange: true,
    place: undefined,
    sections: [
      {
        kind: 'rows' as const,
        heading: '$.draught < 9',
        verdict: 'is false',
        because: undefined,
        why: undefined,
        rows: [
          { label: '$.draught', text: String(9 + i) },
          { label: 'limit', text: '9, an input' },
        ],
        places: undefined,
        advice: undefined,
      },
    ],
    tries: undefined,
    reply: undefined,
  });
  const call = (i: number): CallSummary => ({
    address: `1#${i}.1/vessel`,
    name: 'vessel',
    item: String(i),
    outcome: i % 100 === 0 ? 'failed' : 'passed',
    hasPassed: i % 100 !== 0,
    ms: 5 + (i % 90),
    waitedMs: 0,
    tries: 1,
    endedMs: i,
    why: undefined,
    method: 'GET',
    url: `http://harbour.example/v1/vessels/${i}`,
    status: 200,
    binds: [],
    exchanges: [{ x: i, method: 'GET', url: '', fromMs: i, ms: 5 + (i % 90), status: i % 500 === 0 ? 503 : 200 }],
    earlier: [],
    reused: [],
    failure: i % 100 === 0 ? failure(i) : undefined,
  });
  const failures = Array.from({ length: Math.floor(count / 100) }, (_, i) => call((i + 1) * 100)) as never;
  const exchange = (x: number) => ({
    sent: { x, step: '', request: { method: 'GET', url: '', headers: [] }, tryNumber: 1, hop: 0 },
    answered: {
      http: '1.1',
      status: 200,
      reason: 'OK',
      headers: [],
      body: { size: body.length, type: 'text/plain', text: '' },
    },
    broken: undefined,
    ended: undefined,
    body: () => new TextEncoder().encode(body),
  });
  return {
    id: 'run-1',
    name: 'many',
    file: 'many.chain.yaml',
    where: 'harbour',
    startedMs: 0,
    endedMs: count,
    outcome: 'failed',
    exit: 1,
    totals: undefined,
    calls: {
      length: count,
      skipped: 0,
      failures,
      *[Symbol.iterator]() {
        for (let i = 1; i <= count; i++) yield call(i);
      },
    },
    others: [],
    groups: [],
    waits: [],
    notes: [],
    files: [],
    outputs: {},
    exchanges: [],
    hasOperations: false,
    exchange: ({ x }) => exchange(x) as never,
  };
}

test('failures of one cause are one card with its items, and what all of them read is shown once', () => {
  const [cause, ...others] = causesOf(runOf(1000));
  expect([cause!.all.length, others]).toEqual([10, []]);
  const page = pageOf([runOf(1000)], 'batharon');
  expect(page.match(/<article/g)).toHaveLength(1);
  expect(page.match(/9, an input/g)).toHaveLength(1);
  for (const item of [100, 200, 1000]) expect(page).toContain(`item ${item} of due`);
});

test('of 100,000 calls with long bodies the page has fewer than 5 MB, and says how to see the rest', () => {
  const page = pageOf([runOf(100_000, 'a long body '.repeat(40_000))], 'batharon');
  expect(page.length).toBeLessThan(5_000_000);
  expect(page.length).toBeGreaterThan(1_000_000);
  expect(page).toContain('400 of 100,000 calls');
  expect(page).toContain('left out of this page');
  expect(page.match(/class="bar"/g)!.length).toBeGreaterThan(10);
});

test('times that are none, as a damaged record may have them, are left out', () => {
  const run = runOf(3);
  const odd = [NaN, -1, Infinity].map((ms, i) => ({
    ...[...run.calls][i]!,
    exchanges: [{ ...[...run.calls][i]!.exchanges[0]!, ms }],
  }));
  const page = pageOf(
    [{ ...run, calls: { ...run.calls, [Symbol.iterator]: () => odd[Symbol.iterator]() } }],
    'batharon',
  );
  expect(page).not.toContain(`class="dot"`);
});

test('below twenty values each is a dot; percentiles come with enough of them', () => {
  const cells = (count: number) =>
    pageOf([runOf(count)], 'batharon')
      .match(/<td class="number">[^<]*(?=<\/td>)/g)!
      .map((cell) => cell.replace(/.*>/, '') !== '')
      .slice(0, 4);
  expect(pageOf([runOf(19)], 'batharon').match(/class="dot"/g)).toHaveLength(19);
  expect([cells(19), cells(20), cells(99)]).toEqual([
    [true, false, false, true],
    [true, true, false, true],
    [true, true, false, true],
  ]);
});

describeWith(['chromium'], 'in a browser', () => {
  let browser: Browser;
  beforeAll(async () => void (browser = await openBrowser()));
  afterAll(() => browser.close());

  test('the report and the picture of a chain are for everybody, without a script, at any width', async () => {
    const folder = demo();
    await folder.run(['run', ARRIVALS, '--report', 'html=report.html']);
    await folder.run(['draw', ARRIVALS, 'picture.html', '--run', 'last']);
    for (const [name, width, colorScheme] of [
      ['report.html', 1280, 'light'],
      ['report.html', 400, 'dark'],
      ['picture.html', 400, 'light'],
    ] as const) {
      const text = folder.read(name);
      expect(text).not.toMatch(/<script|\son\w+=/);
      expect(text).toContain("default-src 'none'");
      const page = await browser.newPage({ viewport: { width, height: 800 }, colorScheme });
      await page.goto(`file://${path.join(folder.path, name)}`);
      await page.evaluate(() => document.querySelectorAll('details').forEach((each) => (each.open = true)));
      await page.evaluate(axe.source);
      const { violations } = await page.evaluate(() => (globalThis as unknown as { axe: typeof axe }).axe.run());
      expect(violations.map(({ id, nodes }) => `${name}: ${id} ${nodes[0]!.html}`)).toEqual([]);
      expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(width);
      await page.close();
    }
  });

  test('the first thing that is seen of a failed run is why, then its picture; by keyboard steps show their details', async () => {
    const folder = demo();
    await folder.run(['run', ARRIVALS, '--report', 'html=report.html']);
    await folder.run(['draw', ARRIVALS, 'picture.html']);
    const page = await browser.newPage({ javaScriptEnabled: false });
    await page.goto(`file://${path.join(folder.path, 'report.html')}`);
    const headings = await page.locator('h2').allInnerTexts();
    expect(headings.slice(0, 4)).toEqual(['Failures (5, 1 cause)', 'Chain', 'Times', 'Timeline']);
    expect(await page.locator('article').count()).toBe(1);
    expect(await page.locator('.chain .failed').textContent()).toMatch(/^✗ 5 of 14 failed, 14 requests/);
    await page.goto(`file://${path.join(folder.path, 'picture.html')}`);
    // The region that scrolls, the inputs, the first step.
    for (let i = 0; i < 3; i++) await page.keyboard.press('Tab');
    expect(await page.locator('.detail:visible h2').allInnerTexts()).toEqual(['1 arrivals']);
  });
});
