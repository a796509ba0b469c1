import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { testWith } from '../support/needs.ts';
import { inTerminal, useFolders } from '../support/program.ts';

const folderWith = useFolders();

describe('find', () => {
  const xml = `<?xml version="1.0"?>
<tides xmlns:h="urn:harbour"><tide><height>2.06</height></tide><tide><h:height unit="m">3.10</h:height></tide></tides>`;

  test('in XML it prints paths that xpath() reads, those of namespaces by their local names', async () => {
    const place = folderWith({ 'tides.xml': xml });
    const { out } = await place.run(['find', '3.10', 'tides.xml']);
    expect(out).toBe(`1 place in tides.xml

/tides/tide[2]/*[local-name()='height']   '3.10'
  of all          /tides/tide/*[local-name()='height']
  keep            height: xpath("string(/tides/tide[2]/*[local-name()='height'])")
`);
    const read = await place.run(['value', `xpath("string(/tides/tide[2]/*[local-name()='height'])")`, 'tides.xml']);
    expect([read.status, read.out]).toEqual([0, expect.stringContaining('3.10')]);
    expect((await place.run(['find', 'unit', 'tides.xml'])).out).toContain(
      "/tides/tide[2]/*[local-name()='height']/@unit",
    );
    expect(await place.run(['find', 'x', 'broken.xml'].slice(0, 2), { input: '' })).toMatchObject({ status: 2 });
  });

  test('look --paths lists them too', async () => {
    const server = createServer((request, response) => {
      const isText = request.url === '/text';
      response.setHeader('content-type', isText ? 'text/plain' : 'application/xml').end(isText ? 'high water' : xml);
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const place = folderWith({});
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    await place.run(['send', 'GET', `${url}/text`]);
    expect((await place.run(['look', '--paths'])).all).toContain('is neither JSON nor XML');
    await place.run(['send', 'GET', `${url}/tides`]);
    server.close();
    const { out } = await place.run(['look', '--paths']);
    expect(out.trim().split('\n')).toEqual([
      expect.stringMatching(/^\/tides\/tide\[1\]\/height +'2.06'$/),
      expect.stringMatching(/^\/tides\/tide\[2\]\/\*\[local-name\(\)='height'\] +'3.10'$/),
      expect.stringMatching(/height'\]\/@unit +'m'$/),
    ]);
  });

  testWith(['script'], 'on a terminal one chooses the path that is kept, unless --by says it', async () => {
    const chain = 'steps:\n  - call: list\n    request: GET /berths\n';
    const body = JSON.stringify({
      berths: [
        { id: 'N1', depth: 7 },
        { id: 'N2', depth: 9 },
      ],
    });
    const place = folderWith({ 'b.json': body, 'a.chain.yaml': chain });
    const args = ['find', 'N2', 'b.json', '--call', 'list', '--keep', 'berth', '--into', 'a.chain.yaml'];
    const shown = await inTerminal(place, args, [['Which path', '\u001b[B\r']]);
    expect(shown).toContain('$.berths[1].id');
    expect(place.read('a.chain.yaml')).toContain('berth: $.berths[*].id');
  });

  test('places that only items tell apart are one, with their number', async () => {
    const berths = Array.from({ length: 2000 }, (_, i) => ({ id: `N${i}`, state: 'free' }));
    const place = folderWith({ 'b.json': JSON.stringify({ berths, note: { state: 'free' } }) });
    const { out } = await place.run(['find', 'free', 'b.json']);
    expect(out).toContain('2001 places in b.json'.replace('2001', '2,001'));
    expect(out).toContain('places like it  1,999 more');
    expect(out).toContain('$.note.state');
    expect(out.split('\n').length).toBeLessThan(20);
  });

  test('--as set prints what set takes', async () => {
    const place = folderWith({ 'o.json': '{"order": {"note": "by noon", "lines": [{"qty": 1}]}}' });
    expect((await place.run(['find', 'by noon', 'o.json', '--as', 'set'])).out).toBe(
      'set:\n  $.order.note: "by noon"\n',
    );
  });

  test('--as set writes numbers as they were sent, and braces as braces', async () => {
    const text = '{"n": 1.10, "big": 12345678901234567890, "note": "in {holes}"}';
    const place = folderWith({ 'o.json': text, 'x.xml': '<a>1.10</a>' });
    const setOf = async (wanted: string) => (await place.run(['find', wanted, 'o.json', '--as', 'set'])).out;
    expect(await setOf('1.10')).toBe('set:\n  $.n: 1.10\n');
    expect(await setOf('12345678901234567890')).toBe('set:\n  $.big: 12345678901234567890\n');
    expect(await setOf('in {holes}')).toBe('set:\n  $.note: "in {{holes}}"\n');
    const xml = await place.run(['find', '1.10', 'x.xml', '--as', 'set']);
    expect([xml.status, xml.err]).toEqual([2, expect.stringContaining('set takes paths into JSON')]);
  });
});
