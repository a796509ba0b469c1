import { projectFile, SECRETS, useHarbour } from '../support/harbour.ts';
import { testWith } from '../support/needs.ts';
import { inTerminal, useFolders } from '../support/program.ts';

const harbour = useHarbour();
const folderWith = useFolders();

const VESSELS = `api: harbour
steps:
  - call: vessels
    request: GET /vessels
    keep: { known: $.vessels }
  - each: vessel in known
    gather: { vessels: { value: '{vessel.id}', label: '{vessel.name}' } }
outputs: [vessels]
`;
const VISIT = `api: harbour
inputs: { vessel: { type: string, choices: { chain: vessels.chain.yaml, name: vessels } } }
steps:
  - call: vessel
    request: GET /vessels/{vessel}
`;

const project = (vessels = VESSELS, visit = VISIT) =>
  folderWith({
    'batharon.yaml': projectFile(harbour()),
    'secrets.env': SECRETS,
    'vessels.chain.yaml': vessels,
    'visit.chain.yaml': visit,
  });

test('a given value is checked by what another chain gives, and its requests are in the record', async () => {
  const place = project();
  expect((await place.run(['run', 'visit.chain.yaml', '--input', 'vessel=KM 100/1'])).status).toBe(0);
  const [journal] = place.journals();
  const sent = journal!.filter(({ type }) => type === 'sent');
  expect(journal![0]!.type).toBe('run');
  expect(sent).toMatchObject([
    { x: 1, purpose: 'choices', step: 'q1/vessels' },
    { x: 2, purpose: 'call', step: '1/vessel' },
  ]);
  expect(journal!.at(-1)).toMatchObject({ type: 'finished', totals: { calls: 1, exchanges: 1 } });
  // Neither going on nor rehearsing asks again.
  expect((await place.run(['rehearse', 'visit.chain.yaml'])).status).toBe(0);
});

test('another value is refused with the nearest, and the run is not begun', async () => {
  const place = project();
  const { status, err } = await place.run(['run', 'visit.chain.yaml', '--input', 'vessel=KM 100/2']);
  expect(status).toBe(2);
  expect(err).toContain('not-a-choice');
  expect(err).toContain('Did you mean "KM 100/1"?');
  expect(err).toContain('the run was not started');
});

testWith(['script'], 'on a terminal one chooses by the labels', async () => {
  const place = project();
  const out = await inTerminal(place, ['run', 'visit.chain.yaml'], [['Langeholm', '\u001b[B\r']]);
  expect(out).toContain('passed');
  expect(place.journals().at(-1)![0]).toMatchObject({ inputs: { vessel: { json: 'SV 113/3' } } });
});

test.each([
  ['inputs: { day: date }\n', '', /needs the input "day"/],
  ['', 'a', /has no output "vessels"/],
  ['', 'c', /changes something in its call "book"/],
])('chain that cannot provide choices is told by check: %j %s', async (inputs, change, message) => {
  const steps =
    change === 'c' ? VESSELS.replace('steps:\n', 'steps:\n  - call: book\n    request: POST /berths\n') : VESSELS;
  const text = change === 'a' ? steps.replace('outputs: [vessels]', 'outputs: [known]') : steps;
  const { out, status } = await project(inputs + text).run(['check', 'visit.chain.yaml']);
  expect([status, out]).toEqual([2, expect.stringContaining('choices-chain')]);
  expect(out).toMatch(message);
});

test('one that fails, or gives no list to choose from, is told with its reason', async () => {
  const failing = project(VESSELS.replace('/vessels\n', '/boats\n'));
  expect((await failing.run(['run', 'visit.chain.yaml', '--input', 'vessel=x'])).err).toMatch(
    /status is 2xx[^]*server message|response body[^]*vessels\.chain\.yaml failed, which provides the choices of "vessel": vessels: /,
  );
  const odd = project(VESSELS.replace('outputs: [vessels]', 'outputs: { vessels: known }'));
  expect((await odd.run(['run', 'visit.chain.yaml', '--input', 'vessel=x'])).err).toContain('choices are an array of');
});
