import { evaluated } from '../support/expressions.ts';
import { readXml } from '../../src/core/value/xml.ts';
import { coreRun, chainOf } from '../support/engine.ts';

/** The document of the test host: <tides port="Kvitnes"><tide at="06:10"><k:metres>1.9</k:metres></tide><tide at="12:30"/></tides> */
describe('xpath', () => {
  test.each([
    ["xpath('string(/tides/@port)')", 'Kvitnes'],
    ["xpath('count(//tide)')", 2],
    ["xpath('count(//tide)') > 1", true],
    ["xpath('boolean(//tide)')", true],
    ["xpath('number(//tide/@at)') ?? 'none'", 'none'],
    ["string(xpath('/tides/@port'))", 'Kvitnes'],
    ["xpath('/tides/@port') == 'Kvitnes'", true],
    ["'Kvitnes' == xpath('/tides/@port')", true],
    ["upper(xpath('/tides/@port'))", 'KVITNES'],
    ["number(string(xpath('//k:metres'))) + 1", 2.9],
    ["length(xpath('//tide'))", 2],
    ["mapped(xpath('//tide'), string(xpath('@at', @)))", ['06:10', '12:30']],
    ["joined(mapped(xpath('//tide'), xpath('string(@at)', @)), ' ')", '06:10 12:30'],
    ["length(xpath('//tide')[?xpath('@at', @) == '12:30'])", 1],
    ["xpath('//nothing') == 'x' ", undefined],
    ["type_of(first(xpath('//tide')))", 'node'],
    ['$.tides', undefined],
  ])('%s', (text, value) => expect(evaluated(text).value).toEqual(value));

  test.each([
    ["upper(xpath('//tide'))", 'many-nodes'],
    ["xpath('//tide') == 'x'", 'many-nodes'],
    ["xpath('//q:tide')", 'wrong-argument'],
  ])('%s is an error', (text, code) => expect(evaluated(text).problem?.code).toBe(code));
});

describe('reading XML', () => {
  test.each([
    ['a DOCTYPE', '<!DOCTYPE a [<!ENTITY x "y">]><a>&x;</a>', 'DOCTYPE'],
    ['no end', '<a><b></a>', ''],
    ['too deep', '<a>'.repeat(600) + '</a>'.repeat(600), '512'],
    ['no XML', 'hello', ''],
  ])('%s is refused', (_name, text, message) => {
    const read = readXml(text);
    expect('message' in read ? read.message : 'read').toContain(message);
    expect('document' in read).toBe(false);
  });
});

test('a chain reads XML with namespaces, keeps a node, and goes into it later', async () => {
  const body = '<t:tides xmlns:t="urn:t"><t:tide at="06:10"><t:metres>1.9</t:metres></t:tide></t:tides>';
  const chain = `${chainOf(`- call: tides
  request: GET /tides
  namespaces: { x: urn:t }
  expect:
    - xpath('//x:tide/@at') == '06:10'
  keep:
    tide: first(xpath('//x:tide'))
    metres: string(xpath('//x:metres'))
- let:
    at: xpath('string(@at)', tide)
- say: "{at} {metres} {tide}"`)}outputs: [at]\n`;
  const { outputs, events, codes } = await coreRun(chain, { answers: [{ type: 'application/xml', body }] });
  expect(codes).toEqual([]);
  expect(outputs).toEqual({ at: '06:10' });
  expect(events).toContainEqual(expect.objectContaining({ type: 'said', text: '06:10 1.9 1.9' }));
});

test('a namespace that is nowhere in the document gives nothing, and those that are there are named', async () => {
  const body = '<t:tides xmlns:t="urn:tides/" xmlns:q="urn:quay" q:at="N1"><t:tide/></t:tides>';
  const answers = [{ type: 'application/xml', body }];
  const call = (more: string) =>
    chainOf(`- call: tides\n  request: GET /tides\n  namespaces: { x: 'urn:tides', t: urn:tides/ }\n  ${more}\n`);
  for (const more of ['expect: ["length(xpath(\'//x:tide\')) == 0"]', 'keep: { tides: "xpath(\'//x:tide\')" }']) {
    const { exit, events } = await coreRun(call(more), { answers });
    expect(exit).toBe(1);
    expect(JSON.stringify(events)).toMatch(/namespace urn:tides of the prefix x.*urn:tides\/.*urn:quay/);
  }
  const meant = 'expect: ["length(xpath(\'//t:none\')) == 0", "(xpath(\'//x:tide\') ?? []) == []"]';
  expect((await coreRun(call(meant), { answers })).codes).toEqual([]);
});

test('prefixes go on to mean the same below what they found: in loops, and where items are identified', async () => {
  const body =
    '<t:tides xmlns:t="urn:t"><t:tide><t:at>06:10</t:at></t:tide><t:tide><t:at>12:30</t:at></t:tide></t:tides>';
  const chain = chainOf(`- call: tides
  request: GET /tides
  namespaces: { x: urn:t }
  keep: { tides: "xpath('//x:tide')" }
- each: tide in tides
  identified-by: string(xpath('x:at', tide))
  steps:
    - say: "{xpath('string(x:at)', tide)}"`);
  const { events, codes } = await coreRun(chain, { answers: [{ type: 'application/xml', body }] });
  expect(codes).toEqual([]);
  expect(events.flatMap((event) => (event.type === 'said' ? [event.text] : []))).toEqual(['06:10', '12:30']);
});

test('a path into XML says what to write instead', async () => {
  const { events } = await coreRun(chainOf('- call: tides\n  request: GET /tides\n  expect: [$.tides.tide == 1]'), {
    answers: [{ type: 'application/xml', body: '<tides/>' }],
  });
  expect(JSON.stringify(events)).toContain("xpath('//tides')");
});
