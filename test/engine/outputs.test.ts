import fc from 'fast-check';
import { WrittenFiles } from '../../src/core/engine/files/written-files.ts';
import { csvText, readCsv } from '../../src/core/value/csv.ts';
import { memoryFile } from '../support/hosts.ts';

describe('files of rows', () => {
  const clock = { nowMs: () => 0, monotonicMs: () => 0, sleep: async () => {} };
  const form = { updateBy: undefined, append: false, reveal: false, spreadsheet: false };
  const written = (
    path: string,
    before: string | Uint8Array | undefined,
    more: object,
    ...batches: readonly (readonly Record<string, never>[])[]
  ) => {
    const file = memoryFile(path, before);
    const writtenFiles = new WrittenFiles(clock);
    for (const rows of batches) writtenFiles.write(file, '1/write', { ...form, ...more }, 'windows-1252', rows);
    writtenFiles.close();
    return file.text();
  };
  const memoryText = (before: Uint8Array, more: object, rows: readonly Record<string, never>[]) => {
    const file = memoryFile('r.csv', before);
    new WrittenFiles(clock).write(file, '1/write', { ...form, ...more }, 'windows-1252', rows);
    return file.read();
  };
  const row = (cells: object) => [cells] as unknown as readonly Record<string, never>[];
  test.each([
    [
      'a run starts the file afresh',
      'r.csv',
      'old\n',
      {},
      [row({ a: 1, b: 'x, "y"' }), row({ b: null, a: 2 })],
      'a,b\n1,"x, ""y"""\n2,\n',
    ],
    [
      'append keeps what was there and its columns',
      'r.csv',
      'b,a\n1,2\n',
      { append: true },
      [row({ a: 3, b: 4 })],
      'b,a\n1,2\n4,3\n',
    ],
    [
      'rows are updated by a column, others put behind, columns added',
      'r.csv',
      'id,n\n7,old\n8,stays\n',
      { updateBy: 'id' },
      [row({ id: '7', n: 'new', flag: 'NO' }), row({ id: 9, n: 'more' })],
      'id,n,flag\n7,new,NO\n8,stays,\n9,more,\n',
    ],
    ['NDJSON', 'r.ndjson', undefined, {}, [row({ a: [1] }), row({ a: null })], '{"a":[1]}\n{"a":null}\n'],
    ['JSON as a whole', 'r.json', undefined, {}, [row({ a: 1 })], '[\n  {\n    "a": 1\n  }\n]\n'],
    [
      'a table of another program keeps its mark, its separator and its line breaks',
      'r.csv',
      '\ufeffid;n;note\r\n1;"a;b";"x\ny"\r\n2;c;\r\n',
      { updateBy: 'id' },
      [row({ id: 2, n: 'd', note: 'one\ntwo' })],
      '\ufeffid;n;note\r\n1;"a;b";"x\ny"\r\n2;d;"one\ntwo"\r\n',
    ],
    [
      'a last line without an end has one before rows come behind it',
      'r.csv',
      'a;b\n1;2',
      { append: true },
      [row({ a: 3, b: 4 })],
      'a;b\n1;2\n3;4\n',
    ],
    ['and in NDJSON', 'r.ndjson', '{"a":1}', { append: true }, [row({ a: 2 })], '{"a":1}\n{"a":2}\n'],
    [
      'rows of one key are all updated, and none is lost',
      'r.csv',
      'id,n\n7,a\n7,b\n,c\n,d\n',
      { updateBy: 'id' },
      [row({ id: 7, m: 1 })],
      'id,n,m\n7,a,1\n7,b,1\n,c,\n,d,\n',
    ],
    [
      'rows without the column stay',
      'r.ndjson',
      '{"n":1}\n\n{"id":7}\n',
      { updateBy: 'id' },
      [row({ id: 7, n: 2 })],
      '{"n":1}\n{"id":7,"n":2}\n',
    ],
    ['an empty cell alone is no empty line', 'r.csv', undefined, {}, [row({ a: '' }), row({ a: null })], 'a\n""\n""\n'],
    ['no rows leave no old ones', 'r.csv', 'a\n1\n', {}, [[]], ''],
    ['and the first row brings the header', 'r.csv', 'old\n', {}, [[], row({ a: 1 })], 'a\n1\n'],
    [
      'cells that a spreadsheet would run',
      'r.csv',
      undefined,
      { spreadsheet: true },
      [row({ a: '=1+1' })],
      "a\n'=1+1\n",
    ],
  ])('%s', (_name, path, before, more, batches, wanted) =>
    expect(written(path, before, more, ...batches)).toBe(wanted),
  );

  test('a file keeps its charset, and is not written with signs that it cannot have', () => {
    const before = Buffer.from('id;n\n1;caf\xe9\n', 'latin1');
    const rows = row({ id: 2, n: 'Gråternen' });
    const file = (more: typeof rows) => memoryText(before, { updateBy: 'id' }, more);
    expect(file(rows)).toEqual(Buffer.from('id;n\n1;caf\xe9\n2;Gr\xe5ternen\n', 'latin1'));
    expect(() => file(row({ id: 2, n: 'Ļ' }))).toThrow('r.csv has the charset windows-1252, which has no "Ļ"');
  });

  test('rows that another process wrote meanwhile stay', () => {
    const file = memoryFile('r.csv', 'id,n\n1,a\n');
    const writtenFiles = new WrittenFiles(clock);
    writtenFiles.write(file, '1/write', { ...form, updateBy: 'id' }, undefined, row({ id: 1, n: 'ours' }));
    file.replace('id,n,m\n1,theirs,x\n2,theirs,y\n', { reveal: false, encode: (text) => text });
    writtenFiles.write(file, '1/write', { ...form, updateBy: 'id' }, undefined, row({ id: 3, n: 'ours' }));
    writtenFiles.close();
    expect(file.text()).toBe('id,n,m\n1,ours,x\n2,theirs,y\n3,ours,\n');
  });

  test.each([
    ['r.ndjson', '{"id":1}\nnope\n', /r\.ndjson cannot be read as rows and was not changed: .* in line 2$/],
    ['r.ndjson', '{"id":1}\n[2]\n', /there is no object in line 2$/],
    ['r.json', '{"id":1}', /it is not an array of objects$/],
    ['r.csv', 'id,n\n1,2,3\n', /the row that ends in line 2 has 3 cells, unlike the header$/],
    ['r.csv', 'id,id\n1,2\n', /its header has the column "id" twice$/],
  ])('what cannot be read whole is left as it is: %s %j', (path, before, message) => {
    const file = memoryFile(path, before);
    const write = () =>
      new WrittenFiles(clock).write(file, '1/write', { ...form, updateBy: 'id' }, undefined, row({ id: '1' }));
    expect(write).toThrow(message);
    expect(file.text()).toBe(String(before));
  });

  test('a row with a column that is not there, a cell that is a list', () => {
    expect(() => written('r.csv', undefined, {}, row({ a: 1 }), row({ c: 1 }))).toThrow(
      'has no column "c"; its columns are a',
    );
    expect(() => written('r.csv', undefined, {}, row({ a: [1] }))).toThrow('The cell a is an array');
  });

  test('whatever cells hold and however a table is laid out, updating it changes what is meant and nothing else', () => {
    const cell = fc.oneof(
      fc.string(),
      fc.constantFrom('"', 'a;b', 'x,y', 'one\ntwo', 'one\r\ntwo', ' ', "it's", '\t|'),
    );
    const key = fc.constantFrom('1', '2', '3', 'KM 204/5');
    const cells = fc.array(fc.tuple(key, cell, cell), { maxLength: 6 });
    const layout = fc.record({
      separator: fc.constantFrom(',', ';', '\t', '|'),
      lineEnd: fc.constantFrom('\n' as const, '\r\n' as const),
    });
    fc.assert(
      fc.property(cells, cells, layout, fc.boolean(), (before, after, laidOut, hasMark) => {
        const text = (hasMark ? '\ufeff' : '') + csvText([['id', 'n', 'note'], ...before], laidOut);
        const file = memoryFile('r.csv', text);
        const writtenFiles = new WrittenFiles(clock);
        const model = before.map(([id, n, note]) => ({ id, n, note }));
        for (const [id, n] of after) {
          writtenFiles.write(file, '1/write', { ...form, updateBy: 'id' }, undefined, [{ id, n }]);
          const same = model.filter((each) => each.id === id);
          same.forEach((each) => (each.n = n));
          if (same.length === 0) model.push({ id, n, note: '' });
        }
        writtenFiles.close();
        expect(readCsv(file.text()!, laidOut)).toEqual(model);
        expect(file.text()!.startsWith('\ufeff')).toBe(hasMark);
      }),
    );
  });
});
