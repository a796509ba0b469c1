import { chainExamples } from '../../src/core/reference/examples/chain.ts';
import { expectationExamples } from '../../src/core/reference/examples/expectation.ts';
import { projectExamples } from '../../src/core/reference/examples/project.ts';
import { keyGroups } from '../../src/core/reference/keys.ts';
import { nameGroups } from '../../src/core/reference/names.ts';
import { topicGroups } from '../../src/core/reference/topics.ts';
import { chainProblems, projectProblems } from '../support/chains.ts';
import { parseExpression } from '../../src/core/expression/parse.ts';

/** Names that the examples of steps read. */
const INPUTS = `inputs:
  day: { type: date, default: '2026-05-23' }
  vessel: { type: string, default: KM 204/5 }
  berth: { type: string, default: N1 }
  job: { type: string, default: J-1 }
  due: { type: json, default: [] }
`;

const ELSEWHERE: ReadonlySet<string> = new Set(['file-not-found', 'key-not-readable', 'invalid-contract']);

const errorsOf = (found: readonly { level: string; code: string; message: string }[]): readonly string[] =>
  // What is beside an example on disk is not there in a test.
  found
    .filter(({ level, code }) => level === 'error' && !ELSEWHERE.has(code))
    .map(({ code, message }) => `${code}: ${message}`);

const chains = Object.entries({ ...chainExamples, ...expectationExamples }).flatMap(([heading, all]) =>
  all.map((text) => [heading, text] as const),
);
test.each(chains)('an example of %s is sound: %s', (_heading, text) => {
  const whole = text.startsWith('- ') ? `${INPUTS}api: harbour\nsteps:\n${text.replace(/^/gm, '  ')}\n` : text;
  expect(errorsOf(chainProblems(withApi(whole)))).toEqual([]);
});

const withApi = (text: string) => (/^api:/m.test(text) ? text : `api: harbour\n${text}`);

const projects = Object.entries(projectExamples).flatMap(([heading, all]) =>
  all.map((text) => [heading, text] as const),
);
test.each(projects)('an example of %s is sound: %s', (_heading, text) => {
  expect(errorsOf(projectProblems(`${text}\n`))).toEqual([]);
});

test('every key has an example, a place, a type, and says whether it is required', () => {
  const pages = keyGroups().flatMap((group) => group.pages);
  expect(pages.filter(({ example }) => example === undefined).map(({ name }) => name)).toEqual([]);
  for (const { rows, paragraphs } of pages) {
    expect(rows.map(({ label }) => label)).toEqual(expect.arrayContaining(['in', 'type', 'required']));
    expect(paragraphs.join('')).not.toBe('');
  }
});

const names = nameGroups().flatMap((group) => group.pages);
test.each(names.map(({ name, example }) => [name, example!]))('the example of %s parses', (name, example) => {
  expect(parseExpression(example).problems).toEqual([]);
  expect(example).toContain(name);
});

test('topics name pages that exist, and say something', () => {
  for (const { paragraphs } of topicGroups().flatMap((group) => group.pages))
    expect(paragraphs.length).toBeGreaterThan(0);
});
