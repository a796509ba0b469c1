import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { readChain } from '../../src/core/chain/chain-file.ts';
import type { Step } from '../../src/core/chain/model.ts';
import type { Part } from '../../src/core/chain/parts.ts';
import { allPartsOf, listsOf, stepsOf } from '../../src/core/chain/steps/inside.ts';
import { schemaOfStep, stepKinds } from '../../src/core/chain/steps/list.ts';
import { chainExamples } from '../../src/core/reference/examples/chain.ts';

const demo = path.join(__dirname, '..', '..', 'demo', 'chains');
const demoFiles = readdirSync(demo).map((name) => readFileSync(path.join(demo, name), 'utf8'));
const examples = Object.values(chainExamples)
  .flat()
  .map((text) => (text.startsWith('- ') ? `steps:\n${text.replace(/^/gm, '  ')}\n` : text));
const everyKey = readFileSync(path.join(__dirname, '..', 'fixtures', 'every-key.chain.yaml'), 'utf8');
const files = [...demoFiles, ...examples, everyKey];
const steps = files.flatMap((text) => {
  const { chain } = readChain({ path: 'a.chain.yaml', text });
  return chain ? stepsOf(chain) : [];
});

const KINDS: ReadonlySet<unknown> = new Set(['broken', ...stepKinds.map(({ key }) => key)]);

/** Every expression, text, request target and steps that a model holds, found by what they look like. */
function held(value: unknown, found = new Set<unknown>(), isStep = false): ReadonlySet<unknown> {
  if (typeof value !== 'object' || value === null || value instanceof RegExp) return found;
  const kind = 'kind' in value ? value.kind : undefined;
  if (isStep && KINDS.has(kind) && 'when' in value) return found.add(value);
  const isLeaf = 'source' in value && ('tree' in value || 'pieces' in value || 'parts' in value);
  if (isLeaf) return found.add(value);
  for (const [name, each] of Object.entries(value)) if (name !== 'when' && name !== 'source') held(each, found, true);
  return found;
}

function ofParts(parts: readonly Part[]): ReadonlySet<unknown> {
  return new Set(
    parts.flatMap((part): readonly unknown[] => {
      if (part.sort === 'expression') return [part.expression];
      if (part.sort === 'text') return [part.text];
      if (part.sort === 'target') return [part.target];
      if (part.sort === 'binding') return part.value ? [part.value] : [];
      return listsOf(part).flat();
    }),
  );
}

test('parts leave out no expression, text or step that a model holds', () => {
  for (const step of steps) {
    const known = ofParts(allPartsOf(step));
    const left = [...held(step)].filter((each) => !known.has(each));
    expect([step.kind, left]).toEqual([step.kind, []]);
  }
  expect(new Set(steps.map(({ kind }) => kind))).toEqual(new Set(stepKinds.map(({ key }) => key)));
});

test('every key of a step is in the chain of every key', () => {
  const keys = stepKinds.flatMap((kind) => Object.keys(schemaOfStep(kind).shape));
  expect(keys.filter((key) => !new RegExp(`\\b${key}:`).test(everyKey))).toEqual([]);
  const { diagnostics } = readChain({ path: 'a.chain.yaml', text: everyKey });
  expect(diagnostics.filter(({ level }) => level === 'error').map(({ message }) => message)).toEqual([]);
});

test('files that a step reads or writes are known as such', () => {
  const uses = (of: Step['kind'], use: string) =>
    steps
      .filter(({ kind }) => kind === of)
      .flatMap(allPartsOf)
      .flatMap((part) => (part.sort === 'text' && part.use === use ? [part.text.source.text] : []));
  expect(uses('call', 'file-written')).toContain('out/body.bin');
  expect(uses('call', 'file-read')).toEqual(expect.arrayContaining(['wanted.json', 'papers.pdf', 'berth.json']));
  expect(uses('write', 'file-written')).toContain('out/rows.csv');
  expect(uses('each', 'file-written')).toContain('out/rejects.csv');
  expect(uses('call', 'credential').join()).toContain('secret.TOKEN');
});
