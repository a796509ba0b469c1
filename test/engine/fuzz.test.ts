import fc from 'fast-check';
import { readChain } from '../../src/core/chain/chain-file.ts';
import { checkChain } from '../../src/core/chain/check.ts';
import { evaluate } from '../../src/core/expression/evaluate.ts';
import { frameOf } from '../../src/core/expression/frame.ts';
import { parseExpression } from '../../src/core/expression/parse.ts';
import { chainOf, coreRun } from '../support/engine.ts';
import { testAround, testStep } from '../support/hosts.ts';

/** Cases of each property; `npm run soak` asks for many more. */
const RUNS = process.env['SOAK'] === undefined ? 150 : Math.ceil(Number(process.env['SOAK']) / 8);
const options = { numRuns: RUNS, interruptAfterTimeLimit: 40_000 + RUNS * 20 };

const types = [
  'application/json',
  'text/plain',
  'application/xml',
  'text/csv',
  'text/event-stream',
  'text/html;charset=x',
  '',
];
const jsonish = fc.oneof(
  fc.json(),
  fc.json().map((text) => text.slice(0, -1)),
  fc.constantFrom(
    '[',
    '{"a":',
    '"\\ud800"',
    '1e999',
    '-',
    '{"__proto__":{"x":1},"constructor":1}',
    `${'['.repeat(2000)}`,
  ),
);
const markup = fc.constantFrom(
  '<a',
  '<a/>',
  '<a><b>1</b></a>',
  '<!DOCTYPE a [<!ENTITY x "y">]><a>&x;</a>',
  '<a xmlns:k="u"/>',
);
const bodies = fc.oneof(jsonish, markup, fc.string({ unit: 'binary' }), fc.string({ unit: 'grapheme' }));
const names = [
  'Retry-After',
  'RateLimit',
  'X-RateLimit-Remaining',
  'X-RateLimit-Reset',
  'Link',
  'Location',
  'Set-Cookie',
  'Date',
];
const fields = fc.array(fc.tuple(fc.constantFrom(...names), fc.string({ maxLength: 40 })), { maxLength: 4 });
const CANARY = "can'ary-4711&x";
const canaries = [
  CANARY,
  encodeURIComponent(CANARY),
  JSON.stringify({ a: CANARY }),
  `<b>${CANARY.replace('&', '&amp;')}</b>`,
];
const CHAIN = chainOf(`- call: a
  request: GET /x
  expect: [status < 600, $.a != null, "length($..b) >= 0"]
  keep: { all: $, first: "first($.items) ?? null", word: "string($.a ?? 0)", cookie: "cookies.session ?? ''" }
  on-failure: continue
- call: b
  request: GET /y
  paging: { next: "link('next')", max-pages: 3 }
- call: c
  request: GET /z
  poll: { until: $.done == true, every: 1s, within: 5s }`);

test('whatever a server answers, a run ends with a status that says so', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(...types),
      bodies,
      fields,
      fc.constantFrom(200, 201, 204, 301, 401, 429, 500, 503),
      fc.constantFrom(...canaries),
      async (type, body, headers, status, canary) => {
        const answer = { status, type, body: `${body} ${canary}`, headers: [...headers, ['X-Said', canary] as const] };
        const { exit, codes, events } = await coreRun(CHAIN, { answers: [answer], secrets: { TOKEN: CANARY } });
        expect([0, 1, 3, 5]).toContain(exit);
        expect(codes).not.toContain('internal');
        expect(JSON.stringify(events)).not.toContain('y-4711');
      },
    ),
    options,
  );
}, 3_600_000);

const words = fc.constantFrom(
  '$',
  '$.a',
  '$..a[*]',
  '@',
  '[',
  ']',
  '(',
  ')',
  '?',
  '==',
  '!=',
  '&&',
  '||',
  '!',
  '??',
  '-',
  '+',
  '*',
  'in',
  "'x'",
  '"y"',
  '1',
  '9007199254740993',
  '1e400',
  'null',
  'length',
  'filtered',
  'match',
  'toString',
  '__proto__',
  'constructor',
  '.',
  ',',
  ':',
  'date',
  'repeat',
  '2s',
);
const expressions = fc.oneof(
  fc.array(words, { maxLength: 12 }).map((parts) => parts.join(' ')),
  fc.string({ maxLength: 30 }),
);

test('whatever stands in an expression, it is parsed and evaluated without a fault', () => {
  const frame = () => frameOf({ a: [1, 'x', null, { b: 2 }] }, (name) => (name === 'v' ? 3 : undefined), testStep());
  fc.assert(
    fc.property(expressions, (text) => {
      const { tree } = parseExpression(text);
      if (tree) evaluate(tree, frame());
    }),
    { ...options, numRuns: RUNS * 20 },
  );
});

const lines = fc.constantFrom(
  'steps:',
  '- call: a',
  '  request: GET /x',
  '  keep: { a: $.b }',
  '- let: { toString: 1 }',
  '- each: __proto__ in []',
  '  steps: []',
  '- say: "{constructor}"',
  'inputs: { toString: string }',
  'outputs: [valueOf]',
  '- if: a',
  '- write: x.csv',
  '  row: { a: 1 }',
  '- repeat: x',
  '  until: a',
  'api: __proto__',
  '  auth: { bearer: x }',
  '- chain: x.chain.yaml',
  '  inputs: { a: b }',
  '- parallel: []',
  '{',
  '- - -',
  '&a *a',
  '  poll: {}',
  '  expect: [hasOwnProperty == 1]',
  'cleanup:',
  '- stop: x',
  '- wait: 1s',
  '  json: { a: [1] }',
);

test('whatever stands in a chain file, it is read and checked without a fault', () => {
  fc.assert(
    fc.property(
      fc.array(fc.oneof({ weight: 5, arbitrary: lines }, { weight: 1, arbitrary: fc.string({ maxLength: 20 }) }), {
        maxLength: 14,
      }),
      (parts) => {
        const { chain } = readChain({ path: 'a.chain.yaml', text: parts.join('\n') });
        if (chain) checkChain(chain, undefined, { all: undefined, byApi: {} }, testAround);
      },
    ),
    { ...options, numRuns: RUNS * 10 },
  );
});
