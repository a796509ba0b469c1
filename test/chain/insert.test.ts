import { withKeep, withStep } from '../../src/core/chain/insert.ts';
import { readChain } from '../../src/core/chain/chain-file.ts';

const file = (text: string) => ({ path: 'a.chain.yaml', text });
const keep = (text: string, call?: string) => withKeep(file(text), call, 'id', "$.list[?@.name == 'x: y'].id");

describe('keep', () => {
  test.each([
    [
      'none yet, with comments and blank lines around',
      '# top\nsteps:\n  # first\n  - call: a   # beside\n    request: GET /a\n\n  - say: hello\n',
      '# top\nsteps:\n  # first\n  - call: a   # beside\n    request: GET /a\n    keep:\n      id: "$.list[?@.name == \'x: y\'].id"\n\n  - say: hello\n',
    ],
    [
      'in a block',
      'steps:\n- call: a\n  keep:\n    b: $.b # kept\n  request: GET /a\n',
      'steps:\n- call: a\n  keep:\n    b: $.b # kept\n    id: "$.list[?@.name == \'x: y\'].id"\n  request: GET /a\n',
    ],
    [
      'in braces',
      'steps:\n  - call: a\n    request: GET /a\n    keep: { b: $.b } # kept\n',
      'steps:\n  - call: a\n    request: GET /a\n    keep: { b: $.b, id: "$.list[?@.name == \'x: y\'].id" } # kept\n',
    ],
    [
      'an empty keep, and no line break at the end',
      'steps:\n  - call: a\n    request: GET /a\n    keep:',
      'steps:\n  - call: a\n    request: GET /a\n    keep:\n      id: "$.list[?@.name == \'x: y\'].id"\n',
    ],
    [
      'inside a branch',
      'steps:\n  - if: 1 < 2\n    steps:\n      - call: a\n        request: GET /a\n    otherwise: []\n',
      'steps:\n  - if: 1 < 2\n    steps:\n      - call: a\n        request: GET /a\n        keep:\n          id: "$.list[?@.name == \'x: y\'].id"\n    otherwise: []\n',
    ],
  ])('%s', (_name, text, expected) => {
    const found = keep(text, 'a');
    expect(found).toBe(expected);
    const { chain, diagnostics } = readChain(file(found as string));
    expect([chain === undefined, diagnostics.map(({ code }) => code)]).toEqual([false, []]);
  });

  test.each([
    ['steps:\n  - call: b\n    request: GET /\n', 'a', 'has no call "a"'],
    ['steps:\n  - call: a\n    keep: { id: $.x }\n', 'a', 'already keeps "id"'],
    ['name: x\n', undefined, 'no steps to add to'],
  ])('%j cannot', (text, call, message) =>
    expect(keep(text, call)).toMatchObject({ message: expect.stringContaining(message) }),
  );
});

describe('a step at the end', () => {
  test.each([
    [
      'close together',
      'steps:\n  - say: a\noutputs: [x]\n',
      'steps:\n  - say: a\n  - call: b\n    request: GET /b\noutputs: [x]\n',
    ],
    [
      'apart',
      'steps:\n  - say: a\n\n  - say: b # last\n',
      'steps:\n  - say: a\n\n  - say: b # last\n\n  - call: b\n    request: GET /b\n',
    ],
    ['not indented', 'steps:\n- let: { a: 1 }\n', 'steps:\n- let: { a: 1 }\n- call: b\n  request: GET /b\n'],
  ])('%s', (_name, text, expected) => expect(withStep(file(text), ['call: b', 'request: GET /b'])).toBe(expected));
});
