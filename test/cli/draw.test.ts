import { useDemo } from '../support/harbour.ts';

const demo = useDemo();
const BERTH = 'chains/berth.chain.yaml';

test('a chain in the terminal, and what a run did at each step', async () => {
  const folder = demo();
  const { out, err, status } = await folder.run(['draw', BERTH]);
  expect([err, status]).toEqual(['', 0]);
  expect(out).toMatch(/^berth-for-arrival {3}Reserve a berth/);
  expect(out).toContain('◂ due ');
  await folder.run(['run', BERTH]);
  const { out: laid } = await folder.run(['draw', BERTH, '--run', 'last']);
  expect(laid.match(/✓ passed, 1 request in/g)).toHaveLength(4);
});

test('on a terminal with colours, and with nothing in it that a terminal would act on', async () => {
  const folder = demo();
  folder.write('chains/odd.chain.yaml', 'api: harbour\nabout: "a\\e[31mred"\nsteps:\n  - say: "\\e]0;title\\a"\n');
  const { out } = await folder.run(['draw', 'chains/odd.chain.yaml'], { env: { FORCE_COLOR: '1' } });
  expect(out).toContain('\x1b[1m');
  expect(out).not.toMatch(/\x1b\]|\x1b\[31m|\x07/);
});

test('pictures by the ending of the file', async () => {
  const folder = demo();
  const { err } = await folder.run(['draw', BERTH, 'berth.svg']);
  expect(err).toMatch(/^wrote {3}berth\.svg {3}/);
  expect(folder.read('berth.svg')).toMatch(/^<svg xmlns="http:\/\/www.w3.org\/2000\/svg"/);
  expect(await folder.run(['draw', BERTH, 'berth.png'])).toMatchObject({
    status: 2,
    err: expect.stringContaining('.svg or .html'),
  });
  expect(await folder.run(['draw', BERTH, 'batharon.yaml'])).toMatchObject({ status: 2 });
});

test('a chain with mistakes is drawn as far as it can be read, which is said', async () => {
  const folder = demo();
  folder.write(
    'chains/typed.chain.yaml',
    'api: harbour\nsteps:\n  - call: one\n    request: GET /{nothing}\n  - call\n',
  );
  const { out, err, status } = await folder.run(['draw', 'chains/typed.chain.yaml']);
  expect([err, status]).toEqual([expect.stringMatching(/^note: \d errors? .*batharon check chains\/typed/), 0]);
  expect(out).toContain('GET /{nothing}');
  folder.write('chains/broken.chain.yaml', 'steps: [\n');
  expect(await folder.run(['draw', 'chains/broken.chain.yaml'])).toMatchObject({ status: 2, out: '' });
});

test('a run of another chain, or of another state of the file, is told', async () => {
  const folder = demo();
  await folder.run(['run', BERTH]);
  const other = await folder.run(['draw', 'chains/pier.chain.yaml', '--run', 'last']);
  expect([other.status, other.err]).toEqual([
    2,
    expect.stringContaining('No run of chains/pier.chain.yaml is recorded here'),
  ]);
  expect((await folder.run(['draw', 'chains/pier.chain.yaml', '--run', 'last-good'])).err).toContain(
    'is a run of chains/berth',
  );
  folder.write(BERTH, folder.read(BERTH).replace('due {day}', 'expected {day}'));
  expect((await folder.run(['draw', BERTH, '--run', 'last'])).err).toMatch(/^note: .* has changed since run/);
});
