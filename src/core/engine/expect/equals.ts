import { wholeOf, type Source } from '../../diagnostics/source.ts';
import type { Expectation } from '../../http/expectation.ts';
import { locate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import { keysOf } from '../../path/normalized.ts';
import { differences, type Difference } from '../../value/difference.ts';
import { readJson } from '../../value/json-read.ts';
import { utf8Text } from '../../value/utf8.ts';
import { Bytes, type Value } from '../../value/value.ts';
import { judgedWords, noBody, placesOf } from './places.ts';
import { filledText, filledValue, isJudged } from './filled.ts';
import type { Judge, Judged, Judging } from './definition.ts';

type Equals = Extract<Expectation, { form: 'equals' }>;

/** The body equals a file or a value, but for what `except` finds. */
export const judgeEquals: Judge<'equals'> = (expectation, judging) => {
  const wanted = wantedValue(expectation, judging);
  if (isJudged(wanted)) return wanted;
  const { body } = judging.frame;
  if (body === undefined) return noBody;
  const { found, isCompared } = compareWith(wanted.value, body, expectation, judging);
  if (found.length === 0) {
    if (!isCompared) noteNothingCompared(expectation, judging);
    return { passed: true };
  }
  const name = wanted.file ?? 'the value';
  const advice = wanted.file === undefined ? {} : { advice: 'If the new body is right, accept it: --accept.' };
  return {
    passed: false,
    code: 'expectation-false',
    message: `${judgedWords(expectation.of)} differs from ${name}`,
    ...advice,
    ...placesOf(found),
  };
};

type Wanted = Readonly<{ value: Value; file?: string }>;

/** What the body should be: a value with its placeholders filled, or what a file holds: `.json` as JSON, any other as the body is. */
function wantedValue({ wanted }: Equals, judging: Judging): Wanted | Judged {
  if ('value' in wanted) return filledValue(wanted.value, judging);
  const filled = filledText(wanted.file, judging);
  if (isJudged(filled)) return filled;
  const name = filled.value;
  const read = judging.context.runHost.readFile(name);
  if (!('bytes' in read)) {
    const advice = 'To create it from the response: --accept.';
    return { passed: false, code: read.code ?? 'file-not-found', message: read.message, advice };
  }
  const { body } = judging.frame;
  if (body instanceof Bytes) return { value: new Bytes(read.bytes), file: name };
  const text = utf8Text(read.bytes);
  if (text === undefined) return { passed: false, code: 'not-utf8', message: `${name} is not UTF-8` };
  if (!name.toLowerCase().endsWith('.json')) return { value: text, file: name };
  const json = readJson(text);
  if (json.ok) return { value: json.value, file: name };
  return { passed: false, code: 'not-decodable', message: `${name} is not JSON` };
}

/** Where two bodies differ but for excepted places, and whether anything was compared. An `except` that finds nothing in either is noted. */
function compareWith(
  wanted: Value,
  body: Value,
  { except }: Equals,
  judging: Judging,
): Readonly<{ found: readonly Difference[]; isCompared: boolean }> {
  const { frame, context } = judging;
  const excepted = new Set<string>();
  let isCompared = false;
  for (const { tree, source } of except) {
    const keys = [wanted, body].flatMap((each) => keysFound(tree, { ...frame, body: each }));
    if (keys.length === 0) noteIdle(source, judging);
    for (const each of keys) excepted.add(JSON.stringify(each));
  }
  const found = differences(wanted, body, {
    atLeast: false,
    passesOver: (keys) => excepted.has(JSON.stringify(keys)),
    compared: () => (isCompared = true),
    // What is masked in the file equals what would be masked in the same way.
    alike: (a, b) =>
      typeof a === 'string' && a.includes('‹') && typeof b === 'string' && context.run.recorder.masked(b) === a,
  });
  return { found, isCompared };
}

function noteIdle(source: Source, { context }: Judging): void {
  const message = `except ${source.text.trim()} found nothing, neither in the response nor in the expected value`;
  context.host.noted(source, [{ code: 'except-finds-nothing', range: wholeOf(source), message }]);
}

function noteNothingCompared({ source }: Equals, { context }: Judging): void {
  const message = 'Nothing was compared: except leaves out all there is';
  const advice = 'Except less, or expect what must hold of the rest.';
  context.host.noted(source, [{ code: 'nothing-to-check', range: wholeOf(source), message, advice }]);
}

/** The keys of each node that a path of `except` finds. */
export function keysFound(
  tree: Equals['except'][number]['tree'],
  frame: Frame,
): readonly (readonly (string | number)[])[] {
  return tree?.kind === 'path' ? locate(tree, frame).map(keysOf) : [];
}
