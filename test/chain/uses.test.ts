import { readChain } from '../../src/core/chain/chain-file.ts';
import { endpointsOf } from '../../src/core/chain/endpoints.ts';
import { checkUse, usesOf } from '../../src/core/chain/uses.ts';
import { told } from '../support/chains.ts';

const chainFrom = (path: string, text: string) => readChain({ path, text }).chain!;
const used = chainFrom(
  'berth.chain.yaml',
  'inputs:\n  count: { type: integer, optional: true }\n  quay: { type: string, choices: [N, S], optional: true }\n  for: { type: duration, optional: true }\n  day: { type: date, optional: true }\nsteps:\n  - say: "{count} {quay} {for} {day}"\n',
);

test.each([
  ['{ count: 3, quay: N, for: 90s, day: "2026-05-23" }', []],
  ['{ count: "3" }', ['input-wrong 3:23']],
  ['{ count: 3.5 }', ['input-wrong 3:15']],
  ['{ quay: W }', ['not-a-choice 3:21']],
  ['{ for: soon }', ['input-wrong 3:20']],
  ['{ day: "{run.day}", quay: "{run.quay}" }', []],
])('constants that are passed to a used chain are of its inputs: %s', (inputs, found) => {
  const chain = chainFrom('c.chain.yaml', `steps:\n  - chain: berth.chain.yaml\n    inputs: ${inputs}\n`);
  const [use] = usesOf(chain, endpointsOf(undefined, { all: undefined, byApi: {} }), undefined);
  expect(told(checkUse(use!, used))).toEqual(found);
});
