import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { completionsAt, fieldsOf } from '../../src/core/editor/complete.ts';
import { ChainPieces } from '../../src/core/editor/chain-pieces.ts';
import { cursorAt } from '../../src/core/editor/cursor.ts';
import { Buffers } from '../../src/language-server/buffers.ts';
import { ProjectView } from '../../src/language-server/project-view.ts';
import { eachNode } from '../../src/core/chain/walk.ts';
import { readYaml } from '../../src/core/yaml/read.ts';
import type { YamlNode } from '../../src/core/yaml/tree.ts';

const DEMO = path.join(__dirname, '../../demo');
const project = new ProjectView(DEMO, new Buffers(), {}, () => true);
const chains = readdirSync(path.join(DEMO, 'chains')).map((name) => path.join(DEMO, 'chains', name));

/** Every third prefix, and in a soak every one. */
const STRIDE = process.env['SOAK'] ? 1 : 3;

/** What may be written at the end of a text that is all there is of a chain. */
function labelsBehind(text: string, file: string, pieces = new ChainPieces()): readonly string[] {
  return completionsAt({ path: file, text }, text.length, 'chain', pieces, project.around(file)).map(
    ({ label }) => label,
  );
}

describe.each(chains.map((file) => [path.basename(file), file]))('%s, cut off anywhere', (_name, file) => {
  const text = readFileSync(file, 'utf8');
  const pieces = new ChainPieces();

  test('something can be said at every prefix, and nothing fails', () => {
    for (let end = 0; end <= text.length; end += STRIDE)
      expect(Array.isArray(labelsBehind(text.slice(0, end), file, pieces))).toBe(true);
  });

  test('every name and function that the chain reads is offered where it is read', () => {
    const { symbols } = project.viewOf(file)!;
    const wanted: [number, string][] = symbols.uses.map(({ range, name }) => [range[0], name]);
    for (const { tree, source } of symbols.spots)
      eachNode(tree, (node) => {
        if (node.kind === 'call') wanted.push([source.locate(node.nameRange)[0], node.name]);
      });
    for (const [start, name] of wanted)
      for (const end of [start, start + 1, start + name.length]) {
        const labels = labelsBehind(text.slice(0, end), file, pieces);
        expect({ behind: text.slice(0, end).slice(-40), has: labels.includes(name) && name }).toMatchObject({
          has: name,
        });
      }
  });

  test('every key is offered where it is written', () => {
    const fields = fieldsOf('chain');
    for (const [start, key] of keysIn(readYaml({ file: { path: file, text }, report: () => {} })!)) {
      const known = fields.keysOf(fields.at(cursorAt(text, start))).some(({ name }) => name === key);
      if (!known) continue;
      const has = labelsBehind(text.slice(0, start), file, pieces).includes(key) && key;
      expect({ behind: text.slice(0, start).slice(-40), has }).toMatchObject({ has: key });
    }
  });
});

function keysIn(node: YamlNode): readonly (readonly [number, string])[] {
  if (node.kind === 'scalar') return [];
  if (node.kind === 'list') return node.items.flatMap(keysIn);
  return node.entries.flatMap(({ key, keyRange, value }) => [[keyRange[0], key] as const, ...keysIn(value)]);
}

/** Where the cursor is: behind `|` in a text. */
const place = (marked: string) => {
  const at = marked.lastIndexOf('|');
  const { role, path: way, text, quote, closers } = cursorAt(marked.slice(0, at) + marked.slice(at + 1), at);
  return `${role} ${way.join('/')} ${text}${quote || closers ? ` ${quote}${closers}` : ''}`;
};

test.each([
  ['na|', 'key  na'],
  ['api: ha|', 'value api ha'],
  ['steps:\n  - |', 'item steps/0 '],
  ['steps:\n- call: x\n  |', 'key steps/0 '],
  ['steps:\n  - call: x\n    expect:\n      - status == |', 'item steps/0/expect/0 status == '],
  ['steps:\n  - call: x\n    keep: { a: $.x, b: $.|', 'value steps/0/keep/b $. }'],
  ['steps:\n  - call: x\n    keep:\n      { a: $.|', 'value steps/0/keep/a $. }'],
  ["steps:\n  - call: x\n    request: 'GET /{|", "value steps/0/request GET /{ ''"],
  ['steps:\n  - call: x\n    expect: [status == 200, $.|', 'item steps/0/expect/1 $. ]'],
  ['steps:\n  - call: x\n    json:\n      note: |', 'value steps/0/json/note '],
  ['steps:\n  - call: x\n    # a comment |', 'value # '],
  ['steps:\n  - call: x\n    keep: {a: $.x}  |', 'value # '],
  ['outputs: ["a]", |', 'item outputs/1  ]'],
])('the place of the cursor in %j', (marked, wanted) => {
  expect(place(marked)).toBe(wanted);
});

test('in a block text the cursor is in its value, whatever the lines look like', () => {
  const text = 'steps:\n  - call: x\n    text: |\n      keep: {due\n';
  const { role, path: way, quote } = cursorAt(text, text.length - 1);
  expect([role, way.join('/'), quote]).toEqual(['value', 'steps/0/text', '|']);
});

const CHAIN = 'name: x\napi: harbour\ninputs:\n  day: date\n';
const at = (steps: string) => labelsBehind(`${CHAIN}steps:\n${steps}`, path.join(DEMO, 'chains/x.chain.yaml'));

test.each([
  ['the kinds of steps', '  - ', ['call', 'each', 'repeat', 'if'], ['request']],
  [
    'keys of a call that it does not have',
    '  - call: a\n    request: GET /\n    ',
    ['expect', 'keep', 'poll'],
    ['request', 'steps'],
  ],
  ['choices of a key', '  - call: a\n    request: GET /\n    on-failure: ', ['stop', 'continue'], ['day']],
  ['names in a placeholder', '  - call: a\n    request: GET /arrivals/{', ['day', 'length'], ['$', 'status']],
  [
    'the response where it is read',
    '  - call: a\n    request: GET /a\n    keep:\n      a: ',
    ['$', 'status', 'headers', 'day'],
    [],
  ],
  ['nothing in quotes', '  - let:\n      a: "\'da', [], ['day', 'date']],
  ['settings of the API', '  - call: a\n    request: GET /\n    query: { a: "{setting.', ['quay'], ['day']],
  ['secrets by name', '  - call: a\n    request: GET /\n    query: { a: "{secret.', ['HARBOUR_TOKEN'], ['quay']],
  ['APIs', '  - call: a\n    api: ', ['harbour', 'watch', 'office'], ['day']],
  ['chains', '  - chain: ', ['berth.chain.yaml', 'sign-in.chain.yaml'], ['../tables/cargo.csv']],
  ['files', '  - call: a\n    request: POST /\n    file: ', ['../tables/cargo.csv'], ['berth.chain.yaml']],
  ['inputs of a chain that is used', '  - chain: berth.chain.yaml\n    inputs:\n      ', ['day'], ['api']],
  [
    'outputs of a chain that is used',
    '  - chain: berth.chain.yaml\n    keep:\n      a: outputs.',
    ['berth', 'choices'],
    ['day'],
  ],
  [
    'members that the description has',
    '  - call: a\n    api: port\n    request: GET /vessels/{day}\n    keep:\n      a: $.',
    ['draught', 'flag'],
    [],
  ],
  [
    'the same for each item',
    '  - call: a\n    api: port\n    request: GET /berths\n    keep:\n      a: $.berths[?@.',
    ['depth', 'taken_by'],
    [],
  ],
  ['operations of the description', '  - call: a\n    api: port\n    request: ', ['GET', 'GET /vessels/{id}'], []],
  ['the number of a loop', '  - each: x in [1]\n    steps:\n      - say: "{loop.', ['number'], ['day']],
])('%s', (_what, steps, wanted, others) => {
  const labels = at(steps);
  expect(labels).toEqual(expect.arrayContaining(wanted));
  for (const each of others) expect(labels).not.toContain(each);
});

test('what is typed in one step reads that step alone again', () => {
  const steps = (last: string) =>
    `steps:\n${Array.from({ length: 50 }, (_, i) => `  - let:\n      n${i}: ${i}\n`).join('')}  - let:\n      z: ${last}`;
  const pieces = new ChainPieces();
  const file = path.join(DEMO, 'chains/x.chain.yaml');
  const known = (text: string) => pieces.at(file, text, text.length, () => '').known;
  expect(labelsBehind(steps('n'), file, pieces)).toContain('n49');
  const before = known(steps('n4')).get('n7');
  expect(labelsBehind(steps('n42'), file, pieces)).toContain('n49');
  expect(known(steps('n42')).get('n7')).toBe(before);
});
