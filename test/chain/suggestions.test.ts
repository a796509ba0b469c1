import { findFunction, suggestFunction } from '../../src/core/expression/functions/list.ts';
import { chainProblems, projectProblems } from '../support/chains.ts';

const call = (more: string) => `api: harbour\nsteps:\n  - call: a\n    request: GET /a\n    ${more}\n`;
const steps = (text: string) => `api: harbour\nsteps:\n  ${text.replaceAll('\n', '\n  ')}\n`;
const body = 'steps: [{ say: x }]';

/** A word that a practitioner would try, and what leads to the right key. */
const chains: readonly (readonly [written: string, text: string, advice: string])[] = [
  ['for', steps(`- for: v in [1]\n  ${body}`), 'each'],
  ['foreach', steps(`- foreach: v in [1]\n  ${body}`), 'each'],
  ['loop', steps(`- loop: v in [1]\n  ${body}`), 'each'],
  ['concurrent', steps('- concurrent:\n    - say: x'), 'parallel'],
  ['parallel in each', steps(`- each: v in [1]\n  parallel: 3\n  ${body}`), 'concurrency'],
  ['retries', call('retries: 3'), 'retry'],
  ['attempts', call('attempts: 3'), 'retry'],
  ['rate', call('rate: 8/s'), 'rate-limit'],
  ['throttle', call('throttle: 8/s'), 'rate-limit'],
  ['limit', call('limit: 8/s'), 'rate-limit'],
  ['teardown', 'teardown: []\nsteps: [{ say: x }]\n', 'cleanup'],
  ['finally', 'finally: []\nsteps: [{ say: x }]\n', 'cleanup'],
  ['after', 'after: []\nsteps: [{ say: x }]\n', 'cleanup'],
  ['include', steps('- include: other.chain.yaml'), 'chain'],
  ['import', steps('- import: other.chain.yaml'), 'chain'],
  ['params', 'params: { a: string }\nsteps: [{ say: x }]\n', 'inputs'],
  ['args', 'args: { a: string }\nsteps: [{ say: x }]\n', 'inputs'],
  ['returns', 'returns: []\nsteps: [{ say: x }]\n', 'outputs'],
  ['result', 'result: []\nsteps: [{ say: x }]\n', 'outputs'],
  ['assert', call('assert: [status == 200]'), 'expect'],
  ['tests', call('tests: [status == 200]'), 'expect'],
  ['extract', call('extract: { a: $.a }'), 'keep'],
  ['save-as', call('save-as: { a: $.a }'), 'keep'],
  ['capture', call('capture: { a: $.a }'), 'keep'],
  ['body', call('body: { a: 1 }'), 'json'],
  ['data', call('data: { a: 1 }'), 'json'],
  ['sleep', steps('- sleep: 2s'), 'wait'],
  ['delay', steps('- delay: 2s'), 'wait'],
  ['else', steps(`- if: 1 < now_hour\n  else: []\n  ${body}`).replace('1 < now_hour', "uuid() == 'x'"), 'otherwise'],
  ['path', 'api: harbour\nsteps:\n  - call: a\n    path: /a\n', 'request'],
  ['status', call('status: 200'), 'expect: [status == 200]'],
  ['continue-on-error', call('continue-on-error: true'), 'on-failure: continue'],
  [
    'inputs.day',
    `inputs: { day: { type: date, default: '2026-05-23' } }\n${call("query: { day: '{inputs.day}' }")}`,
    'Write day.',
  ],
];
test.each(chains)('%s', (_written, text, advice) => {
  expect(
    chainProblems(text)
      .map((each) => each.advice ?? '')
      .join('\n'),
  ).toContain(advice);
});

test.each([
  ['env', 'apis:\n  h:\n    env: { a: { url: "http://127.0.0.1/" } }\n'],
  ['environment', 'apis:\n  h:\n    environment: { a: { url: "http://127.0.0.1/" } }\n'],
])('%s leads to deployments or settings', (_written, text) => {
  expect(
    projectProblems(text)
      .map((each) => each.advice ?? '')
      .join('\n'),
  ).toMatch(/deployments|settings/);
});

test('base-url leads to url', () => {
  expect(
    projectProblems('apis:\n  h:\n    base-url: http://127.0.0.1\n')
      .map((each) => each.advice)
      .join('\n'),
  ).toContain('"url"');
});

test.each('map filter sort unique join len size regex typeof zip'.split(' '))(
  'the function %s leads to one of ours',
  (name) => {
    expect(findFunction(suggestFunction(name) ?? '')).toBeDefined();
  },
);
