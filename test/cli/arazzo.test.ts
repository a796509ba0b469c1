import Ajv2020 from 'ajv/dist/2020';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { parse } from 'yaml';
import { useFolders, type Folder } from '../support/program.ts';
import { copyDemoInto, SECRETS, useHarbour } from '../support/harbour.ts';

const harbour = useHarbour();
const folderWith = useFolders();
const schema = JSON.parse(readFileSync(path.join(__dirname, '../fixtures/arazzo.schema.json'), 'utf8')) as object;
const accepts = new Ajv2020({ strict: false, validateFormats: false }).compile(schema);

function demo(): Folder {
  const folder = folderWith();
  copyDemoInto(folder, harbour());
  return folder;
}

const STEPS = `  - call: arrivals
    request: GET /arrivals
    query:
      day: "{day}"
      state: expected
    expect:
      - status == 200
      - $.total > 0
    keep:
      vessel: $.arrivals[0].vessel
  - call: vessel
    request: GET /vessels/{vessel}
    expect:
      - status == 200
    retry: { tries: 3, wait: 1s, on: [503, 429] }
    keep:
      draught: $.draught
      master: $.master
      kind: headers.content_type
  - call: clearance
    request: POST /vessels/{vessel}/clearance
    headers:
      Idempotency-Key: "of-{day}"
    json:
      master: "{master}"
      draught: "{draught}"
    expect:
      - status == 202
    keep:
      job: $.job.id
  - call: settled
    request: GET /jobs/{job}
    expect:
      - status == 200
    poll: { until: $.state == 'cleared' || $.state == 'refused', every: 1s, within: 30s }
    keep:
      state: $.state
`;
const CHAIN = `about: A vessel is cleared.
api: port
inputs:
  day: { type: date, default: "2026-05-23" }

steps:
${STEPS}
outputs:
  state: state
`;

test('a chain goes out as a document that its schema accepts, and comes back as the same chain', async () => {
  const folder = demo();
  folder.write('chains/cleared.chain.yaml', CHAIN);
  const exported = await folder.run(['export', 'arazzo', 'chains/cleared.chain.yaml']);
  expect([exported.status, exported.err]).toEqual([0, '']);
  const document = parse(exported.out) as object;
  expect([accepts(document), accepts.errors]).toEqual([true, null]);
  folder.write('cleared.arazzo.yaml', exported.out);
  const drafted = await folder.run(['draft', 'cleared.arazzo.yaml', '--into', 'chains/back.chain.yaml']);
  expect([drafted.status, drafted.out.includes('no counterpart')]).toEqual([0, false]);
  const back = folder.read('chains/back.chain.yaml');
  expect(back.slice(back.indexOf('steps:'))).toBe(`steps:\n${STEPS}\noutputs:\n  state: state\n`);
  expect(back).toContain('about: A vessel is cleared.');
  expect(back).toContain('day: { type: date, default: "2026-05-23"');
  const run = await folder.run(['run', 'chains/back.chain.yaml']);
  expect([run.status, /contract\s+harbour\.yaml:\s+4\s+of\s+16\s+operations/.test(run.out)]).toEqual([0, true]);
});

test.each(['berth', 'clearance', 'arrivals', 'described', 'quay', 'new-berth', 'water'])(
  'what of %s has no counterpart is listed, and stands in the document as a comment',
  async (name) => {
    const folder = demo();
    const { status, out, err } = await folder.run(['export', 'arazzo', `chains/${name}.chain.yaml`]);
    expect(status).toBe(0);
    expect([accepts(parse(out)), accepts.errors]).toEqual([true, null]);
    const listed = err.split('\n').filter((line) => line.startsWith('no counterpart: '));
    expect(out.match(/^# no counterpart: .*$/gm) ?? []).toHaveLength(listed.length);
    const [source] = (parse(out) as { sourceDescriptions: { url: string }[] }).sourceDescriptions;
    expect(folder.read(source!.url)).toContain('openapi');
    // What it names as its source describes what it calls.
    folder.write('again.arazzo.yaml', out);
    const again = await folder.run(['draft', 'again.arazzo.yaml', '--into', 'chains/again.chain.yaml']);
    expect([again.status, again.all.includes('is not known')]).toEqual([0, false]);
  },
);

const DOCUMENT = `arazzo: 1.0.1
info: { title: A day, version: 1.0.0 }
sourceDescriptions:
  - { name: harbour, url: openapi/harbour.yaml, type: openapi }
  - { name: other, url: 'https://harbour.example/other.arazzo.yaml', type: arazzo }
workflows:
  - workflowId: day
    summary: A day in the harbour
    inputs:
      type: object
      properties:
        flag: { type: string, enum: ['NO', PT], default: 'NO' }
        count: { type: integer }
    steps:
      - stepId: list
        operationId: $sourceDescriptions.harbour.listVessels
        parameters: [{ name: flag, in: query, value: $inputs.flag }]
        successCriteria:
          - condition: $statusCode == 200
          - { context: $response.body, condition: "$.vessels[?@.draught > 3]", type: jsonpath }
          - { context: $response.header.Content-Type, condition: '^application/json', type: regex }
          - condition: $response.body#/vessels/0/flag == 'NO'
        outputs: { id: $response.body#/vessels/0/id, url: $request.url }
        onSuccess: [{ name: onwards, type: goto, stepId: one }]
      - stepId: one
        operationPath: '{$sourceDescriptions.harbour.url}#/paths/~1vessels~1{id}/get'
        parameters: [{ name: id, in: path, value: $steps.list.outputs.id }]
        outputs: { id: $response.body#/id }
      - stepId: gone
        operationId: noSuchOperation
    outputs: { id: $steps.one.outputs.id }
`;

test('a document of others: what has a counterpart becomes a chain that runs, and nothing is dropped silently', async () => {
  const folder = folderWith({ 'day.arazzo.yaml': DOCUMENT, 'secrets.env': `${SECRETS}` });
  const from = demo();
  for (const name of ['harbour', 'vessels', 'berths'])
    folder.write(
      `openapi/${name}.yaml`,
      from.read(`openapi/${name}.yaml`).replace('http://127.0.0.1:4090', harbour().url),
    );
  const { status, out, err } = await folder.run(['draft', 'day.arazzo.yaml', '--api', 'harbour']);
  expect(status).toBe(0);
  expect(err).toContain('the source other (arazzo, https://harbour.example/other.arazzo.yaml) is not read');
  for (const left of [
    'list: output url: $request.url',
    'list: goto onwards',
    'gone: the operation noSuchOperation is not known',
  ])
    expect(out).toContain(`no counterpart: ${left}`);
  const chain = folder.read('chains/day.chain.yaml');
  expect(chain).toContain('# no counterpart: goto onwards');
  expect(chain).toContain("search(headers.content_type, '^application/json')");
  expect(chain).toContain('length($.vessels[?@.draught > 3]) > 0');
  expect(chain).toContain('request: GET /vessels/{list_id}');
  const run = await folder.run(['run', 'chains/day.chain.yaml', '--input', 'count=3']);
  expect([run.status, /contract\s+harbour\.yaml:\s+2\s+of\s+16\s+operations/.test(run.out)]).toEqual([0, true]);
});

test.each([
  [['draft', 'none.arazzo.yaml'], 'names no OpenAPI description that is here'],
  [['export', 'arazzo'], 'export arazzo needs a chain file'],
  [['export', 'arazzo', 'mistakes/mistakes.yaml'], 'mistakes/mistakes.yaml has errors'],
])('%j says what to do', async (args, said) => {
  const folder = demo();
  folder.write('none.arazzo.yaml', DOCUMENT.replace('openapi/harbour.yaml', 'https://harbour.example/openapi.yaml'));
  const { status, all } = await folder.run(args);
  expect([status, all.replace(/\s+/g, ' ')]).toEqual([2, expect.stringContaining(said)]);
});
