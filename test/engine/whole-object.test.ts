import { readChain } from '../../src/core/chain/chain-file.ts';
import { chainOf, coreRun, type CoreOptions } from '../support/engine.ts';

const project =
  'apis:\n  harbour:\n    url: http://127.0.0.1:1/v1\n    query: { page: 1, all: yes }\n    auth: { bearer: x }\n';

describe('a whole object in place of a mapping', () => {
  const BAG = '{"page": 2, "flag": ["NO", "DK"], "none": null}';
  /** The second request, which takes what the first one gave. */
  const second = (call: string, bag = BAG, options: CoreOptions = {}) =>
    coreRun(chainOf(`- call: first\n  request: GET /a\n  keep: { bag: $ }\n- call: c\n${call.replace(/^/gm, '  ')}`), {
      answers: [{ status: 200, body: bag }],
      project,
      ...options,
    });

  test('gives parameters, fields of forms and headers as if they stood there', async () => {
    const query = await second('request: GET /b\nquery: "{bag}"');
    expect(query.sent[1]!.url).toBe('http://127.0.0.1:1/v1/b?all=yes&page=2&flag=NO&flag=DK');
    const form = await second('request: POST /b\nform: "{bag}"');
    expect(form.sent[1]!.body).toBe('page=2&flag=NO&flag=DK');
    const headers = await second('request: GET /b\nheaders: "{bag}"', '{"X-Berth": "B-07", "Accept": null}');
    expect(headers.sent[1]!.headers).toContainEqual(['X-Berth', 'B-07']);
    expect(headers.sent[1]!.headers.map(([name]) => name)).not.toContain('Accept');
  });

  test.each([
    ['query: "{bag}"', '[1]', 'invalid-value', 'This is [1], and names with their values are needed here: an object'],
    ['headers: "{bag}"', '{"Expect": "100-continue"}', 'reserved-header', 'The header "Expect" cannot be sent'],
    ['headers: "{bag}"', '{"upgrade": "h2c"}', 'reserved-header', 'The header "upgrade" cannot be sent'],
    ['headers: "{bag}"', '{"Keep-Alive": "5"}', 'reserved-header', 'The header "Keep-Alive" cannot be sent'],
    ['headers: "{bag}"', '{"Host": "x"}', 'reserved-header', 'The header "Host" is set by batharon from the URL'],
    ['headers: "{bag}"', '{"a b": "x"}', 'reserved-header', '"a b" is not a valid header name'],
    ['query: "{bag}"', '{"x": {"y": 1}}', 'invalid-value', 'The parameter "x" is an object'],
  ])('%s refuses %s', async (call, bag, code, message) => {
    const { exit, sent, events } = await second(`request: GET /b\n${call}`, bag);
    expect([exit, sent.length]).toEqual([1, 1]);
    const ended = events.find((event) => event.type === 'ended' && event.outcome === 'failed');
    expect(ended).toMatchObject({ problem: { code, message: expect.stringContaining(message) as string } });
  });

  test('is a placeholder and nothing else', () => {
    const { diagnostics } = readChain({
      path: 'a.chain.yaml',
      text: 'steps:\n  - call: c\n    request: GET /\n    query: "x {bag}"\n',
    } as never);
    expect(diagnostics).toEqual([
      expect.objectContaining({
        code: 'wrong-type',
        message: 'This takes a mapping from names, or a placeholder alone, not "x {bag}"',
      }),
    ]);
  });

  test('of a used chain it gives the inputs, and names that it does not take are refused', async () => {
    const inner = (text: string) => {
      const read = readChain({ path: 'inner.chain.yaml', text } as never);
      return read.chain!;
    };
    const used = inner(
      'inputs: { page: integer, flag: json }\nsteps:\n  - let: { x: page }\noutputs: { flag: flag }\n',
    );
    const text = (keep: string) =>
      chainOf(
        `- call: first\n  request: GET /a\n  keep: { bag: "${keep}" }\n- chain: inner.chain.yaml\n  inputs: "{bag}"\n  keep: { flags: outputs.flag }\n- say: "{flags[1]}"`,
      );
    const options = {
      answers: [{ status: 200, body: `{"given": {"page": 2, "flag": ["NO", "DK"]}, "none": 1}` }],
      chains: { 'inner.chain.yaml': used },
    };
    const passed = await coreRun(text('$.given'), options);
    expect([passed.exit, passed.events.find(({ type }) => type === 'said')]).toMatchObject([0, { text: 'DK' }]);
    const refused = await coreRun(text('$'), options);
    expect(refused.exit).not.toBe(0);
    expect(JSON.stringify(refused.events)).toContain('has no input \\"given\\"');
  });
});
