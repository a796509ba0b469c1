import { readChain } from '../../src/core/chain/chain-file.ts';
import { callsOf } from '../../src/core/chain/steps/inside.ts';
import { chainOf } from '../support/engine.ts';

test.each([
  ['90s', { connect: 90_000, response: 90_000, idle: 90_000, whole: 90_000, said: ['whole'] }],
  ['5s', { connect: 10_000, response: 60_000, idle: 60_000, whole: 5_000, said: ['whole'] }],
  ['{ response: 90s }', { connect: 10_000, response: 90_000, idle: 60_000, said: ['response'] }],
])('timeout: %s limits what it says, and no default is shorter than the whole', (said, expected) => {
  const text = chainOf(`- call: a\n  request: GET /a\n  timeout: ${said}`);
  const { chain } = readChain({ path: 'a.chain.yaml', text });
  expect(callsOf(chain!)[0]!.timeouts).toEqual(expected);
});
