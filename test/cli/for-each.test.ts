import { useCounting } from '../support/counting.ts';
import type { Folder } from '../support/program.ts';

const { counting, projectWith } = useCounting();

const CHAIN = `inputs:
  vessel: string
  draught: { type: number, default: 5 }
  note: { type: string, optional: true }
steps:
  - call: visit
    request: POST /{vessel}/{draught}
    expect: [draught < 9]
    keep: { id: $.id }
outputs: [id]
`;
const ROWS = 'vessel,draught\nA 1,4.5\nB 2,\nC 3,9.5\n';

function folderOf(rows = ROWS, file = 'rows.csv'): Folder {
  const folder = projectWith(CHAIN);
  folder.write(file, rows);
  return folder;
}

const run = (folder: Folder, ...args: readonly string[]) =>
  folder.run(['run', 'c.chain.yaml', ...args], { columns: 140 });

test('a chain once for each row: a run and a case of its own each', async () => {
  const folder = folderOf();
  const reports = ['junit=r.xml', 'tap=r.tap', 'csv=r.csv', 'html=r.html'].flatMap((each) => ['--report', each]);
  const { status, out } = await run(folder, '--for-each', 'rows.csv', '--out', 'out.json', ...reports);
  expect([status, counting.posts]).toEqual([1, ['/A%201/4.5', '/B%202/5', '/C%203/9.5']]);
  expect(out).toMatch(/passed +c row 1: A 1/);
  expect(out).toMatch(/failed +c row 3: C 3/);
  expect(out).toContain('2 of 3 rows passed');
  expect(JSON.parse(folder.read('out.json'))).toEqual({
    'c row 1: A 1': { id: 'A%201/4.5' },
    'c row 2: B 2': { id: 'B%202/5' },
    'c row 3: C 3': {},
  });
  for (const report of ['r.xml', 'r.tap', 'r.csv', 'r.html'])
    for (const name of ['c row 1: A 1', 'c row 2: B 2', 'c row 3: C 3'])
      expect([report, folder.read(report).includes(name)]).toEqual([report, true]);
});

test('rows at the same time, a slice of them, and a row that is gone on with', async () => {
  const folder = folderOf('vessel\n1\n2\n3\n4\n5\n');
  const all = await run(folder, '--for-each', 'rows.csv', '--parallel-chains', '3');
  expect([all.status, [...counting.posts].sort()]).toEqual([0, [1, 2, 3, 4, 5].map((n) => `/${n}/5`)]);
  counting.posts.splice(0);
  await run(folder, '--for-each', 'rows.csv', '--slice', '2/2');
  expect(counting.posts).toEqual(['/2/5', '/4/5']);
  counting.status = 500;
  const failed = await run(folder, '--for-each', 'rows.csv', '--slice', '5/5');
  const id = /run (\d{4}-\d{4}-\w\w)/.exec(failed.out)![1]!;
  counting.status = 200;
  expect((await folder.run(['resume', id])).status).toBe(0);
  expect(counting.posts.at(-1)).toBe('/5/5');
});

test.each([
  ['rows.ndjson', '{"vessel": "A", "draught": 3}\n{"vessel": "B"}\n', ['/A/3', '/B/5']],
  ['rows.json', '[{"vessel": "A", "draught": 3.25, "note": null}]', ['/A/3.25']],
])('%s', async (file, rows, posts) => {
  expect((await run(folderOf(rows, file), '--for-each', file)).status).toBe(0);
  expect(counting.posts).toEqual(posts);
});

test.each([
  ['ship,draught\nA,1\n', [], 'rows.csv has no column for the input vessel'],
  ['ship\nA\n', ['--input', 'vessel=x'], 'No column of rows.csv is an input of c'],
  ['vessel,draught\nA,1\nB,deep\nC,low\n', [], '2 cells of rows.csv cannot be an input\n  rows.csv row 2, draught'],
  ['vessel\n', [], 'it has no rows'],
  ['vessel,draught\nA\n', [], 'cannot be read as a table'],
  [ROWS, ['--only', 'visit'], '--only is for one run, and --for-each makes several'],
  [ROWS, ['x.chain.yaml'], '--for-each is for one chain'],
])('%j %j is refused, and nothing is sent', async (rows, args, message) => {
  const folder = folderOf(rows);
  folder.write('x.chain.yaml', 'steps: [{ say: x }]\n');
  const { status, all } = await run(folder, ...args, '--for-each', 'rows.csv');
  expect([status, counting.posts, all]).toEqual([2, [], expect.stringContaining(message)]);
});

test('after Ctrl-C the last line says how the rest is run', async () => {
  const folder = folderOf('vessel\n1\n2\n3\n4\n');
  const until = () => {
    counting.silent = counting.posts.length === 2;
    return counting.silent;
  };
  const args = ['run', 'c.chain.yaml', '--for-each', 'rows.csv'];
  const { status, out } = await folder.run(args, { columns: 140, until, again: true });
  expect(status).toBe(130);
  const [, left, row] = /, (\d) not started; to run the rest: --from-row (\d)/.exec(out)!.map(Number);
  expect(left! + row!).toBe(5);
  counting.silent = false;
  counting.posts.splice(0);
  expect((await run(folder, '--for-each', 'rows.csv', '--from-row', String(row))).status).toBe(0);
  expect(counting.posts).toEqual([1, 2, 3, 4].slice(row! - 1).map((n) => `/${n}/5`));
});

test.each([
  [['--for-each', 'rows.csv', '--from-row', '9'], 'needs the number of a row from 1 to 3'],
  [['--for-each', 'rows.csv', '--from-row', 'two'], 'needs the number of a row from 1 to 3'],
  [['--from-row', '2'], '--from-row requires --for-each'],
])('%j is refused', async (args, message) => {
  const { status, all } = await run(folderOf(), ...args);
  expect([status, all.includes(message)]).toEqual([2, true]);
});

test('columns that are no inputs are named', async () => {
  const { status, err } = await run(folderOf('vessel,flag\nA,NO\n'), '--for-each', 'rows.csv');
  expect([status, err]).toEqual([0, expect.stringContaining('note: columns of rows.csv that are no inputs: flag')]);
  const { err: none } = await run(folderOf(), '--for-each', 'no.csv');
  expect(none).toContain('The file no.csv does not exist');
});

test('a chain without inputs says so', async () => {
  const folder = folderOf();
  folder.write('c.chain.yaml', 'steps: [{ say: x }]\n');
  const { status, err } = await run(folder, '--for-each', 'rows.csv');
  expect([status, err]).toEqual([2, expect.stringContaining('It has no inputs: declare them under inputs.')]);
});
