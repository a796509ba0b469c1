import { DOMParser } from '@xmldom/xmldom';
import fc from 'fast-check';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { readChain } from '../../src/core/chain/chain-file.ts';
import { boxPicture } from '../../src/core/picture/box-picture.ts';
import { routesOf } from '../../src/core/picture/tracks.ts';
import { picturePage, svgOf } from '../../src/core/picture/picture-page.tsx';
import { flowLabel, type Flow, type Picture } from '../../src/core/picture/picture.ts';
import { pictureOf } from '../../src/core/picture/picture-of.ts';

const plain = (text: string) => text;
const palette = { title: plain, quiet: plain, passed: plain, failed: plain, api: plain };
const drawn = (text: string) => pictureOf(readChain({ path: 'x.chain.yaml', text }).chain!, undefined);
const demo = path.join(__dirname, '../../demo/chains');
const chains = readdirSync(demo).map((name) => [name, readFileSync(path.join(demo, name), 'utf8')] as const);

/** `from -> to: names`, rows by their title. */
const flows = ({ rows, flows: all }: Picture) =>
  all.map(({ from, to, names }) => `${rows[from]!.title} -> ${rows[to]!.title}: ${names.join(', ')}`).sort();

test.each([
  [
    'an input and a kept name',
    'inputs: { a: string }\nsteps:\n  - call: one\n    request: GET /{a}\n    keep: { b: $.b }\n  - call: two\n    request: GET /{b}?x={a}',
    ['inputs -> one: a', 'inputs -> two: a', 'one -> two: b'],
  ],
  [
    'a loop takes its array, its steps take the item, what is gathered leaves it',
    'steps:\n  - let: { list: "[1, 2]" }\n  - each: x in list\n    steps:\n      - call: one\n        request: GET /{x}\n        keep: { y: $.y }\n    gather: { all: "{y}" }\noutputs: [all]',
    ['list -> x in list: list', 'one -> x in list: y', 'x in list -> one: x', 'x in list -> outputs: all'],
  ],
  [
    'arms that bind one name both give it',
    'inputs: { a: boolean }\nsteps:\n  - if: a\n    steps: [{ let: { b: "1" } }]\n    otherwise: [{ let: { b: "2" } }]\n  - say: "{b}"',
    ['b -> {b}: b', 'b -> {b}: b', 'inputs -> a: a'],
  ],
  [
    'rounds bind their names again',
    'steps:\n  - repeat: look\n    carry: { n: "0" }\n    steps: [{ let: { n: n + 1 } }]\n    until: n > 3',
    ['look -> n: n', 'n -> look: n'],
  ],
])('what flows: %s', (_what, text, wanted) => {
  expect(flows(drawn(`api: h\n${text}\n`))).toEqual(wanted);
});

test('a name that more than four steps read is a chip at each of them, and no arc', () => {
  const steps = (count: number) =>
    Array.from({ length: count }, (_, i) => `  - call: c${i}\n    request: GET /{a}`).join('\n');
  const picture = (count: number) => drawn(`inputs: { a: string }\nsteps:\n${steps(count)}\n`);
  expect(picture(4).flows).toHaveLength(4);
  expect(picture(5).flows).toEqual([]);
  expect(
    picture(5)
      .rows.slice(1)
      .map(({ chips }) => chips),
  ).toEqual(Array(5).fill(['a']));
});

test('a flow shows three names, and how many there are more', () => {
  expect(flowLabel(['a', 'b', 'c'])).toBe('a, b, c');
  expect(flowLabel(['a', 'b', 'c', 'd', 'e'])).toBe('a, b, c, 2 more');
  expect(flowLabel(['a_name_that_is_much_too_long'])).toBe('a_name_that_is_mu…');
});

test('flows in one track never touch, whatever the chain', () => {
  const flow = fc.record({ from: fc.nat(30), to: fc.nat(30) }).filter(({ from, to }) => from !== to);
  fc.assert(
    fc.property(fc.array(flow, { maxLength: 40 }), (all) => {
      const rows = Array.from({ length: 31 }, () => ({})) as unknown as Picture['rows'];
      const picture = { rows, flows: all.map((each): Flow => ({ ...each, names: ['a'] })) } as unknown as Picture;
      const { routes, tracks, places } = routesOf(picture);
      for (const [i, a] of routes.entries())
        for (const b of routes.slice(i + 1)) {
          if (a.track !== b.track) continue;
          const [low, high] = [
            Math.max(Math.min(a.from, a.to), Math.min(b.from, b.to)),
            Math.min(Math.max(a.from, a.to), Math.max(b.from, b.to)),
          ];
          expect(low).toBeGreaterThan(high);
        }
      for (const { track, to, entry } of routes) expect(track < tracks && entry < places[to]!.entries).toBe(true);
    }),
  );
});

describe.each(chains)('%s', (_name, text) => {
  const picture = pictureOf(readChain({ path: 'chains/x.chain.yaml', text }).chain!, undefined);

  test('is XML that needs nothing else, and says in words what it shows', () => {
    const svg = svgOf(picture);
    const errors: string[] = [];
    const document = new DOMParser({ onError: (_level, message) => void errors.push(message) }).parseFromString(
      svg,
      'image/svg+xml',
    );
    expect(errors).toEqual([]);
    expect(svg).not.toMatch(/<script|href=|url\(|@import/);
    const words = document.getElementsByTagName('desc')[0]!.textContent!;
    for (const { from, to, names } of picture.flows) {
      expect(words).toContain(names.join(', '));
      expect(words).toContain(picture.rows[from]!.title);
      expect(words).toContain(picture.rows[to]!.title);
    }
  });

  test('in the terminal every step and every flow is there, in lines that fit', () => {
    const box = boxPicture(picture, 110, palette);
    for (const { names } of picture.flows) expect(box).toContain(`◂ ${flowLabel(names)}`.slice(0, 32));
    for (const { number } of picture.rows) expect(box).toContain(number);
    for (const line of box.split('\n').slice(2)) expect([...line].length).toBeLessThanOrEqual(110);
  });
});

test('what a chain says stays text in every form', () => {
  const name = '</title><script>alert(1)</script> ]]>';
  const picture = {
    ...drawn('inputs: { a: string }\nsteps:\n  - say: "<img src=x onerror=alert(1)> {a}"\n'),
    name,
    about: name,
  };
  for (const text of [svgOf(picture), picturePage(picture)]) {
    expect(text).not.toMatch(/<script|<img/);
    expect(text).toContain('&lt;script');
    expect(text).not.toContain(']]>');
  }
  expect(picturePage(picture)).toContain("default-src 'none'");
});
