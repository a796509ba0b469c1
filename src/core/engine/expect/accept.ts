import type { ExpectRecord } from '../../journal/records.ts';
import type { Expectation } from '../../http/expectation.ts';
import { readJson } from '../../value/json-read.ts';
import { writeJson } from '../../value/json-write.ts';
import { Bytes, defineMember, isList, isObject, memberOf, type Maybe, type Value } from '../../value/value.ts';
import { keysFound } from './equals.ts';
import { filledText, isJudged } from './filled.ts';
import type { Judging } from './definition.ts';

/** Asks about a failed `equals` of a file. Gives its record as it is then: held when the new body was accepted. */
export async function offered(expectation: Expectation, record: ExpectRecord, judging: Judging): Promise<ExpectRecord> {
  const {
    run: { accept },
  } = judging.context;
  if (!accept || record.passed || expectation.form !== 'equals' || !('file' in expectation.wanted)) return record;
  const { body } = judging.frame;
  const filled = filledText(expectation.wanted.file, judging);
  if (isJudged(filled) || body === undefined) return record;
  const file = filled.value;
  const content = contentFor(file, body, expectation.except, judging);
  const {
    run: { waits, recorder },
  } = judging.context;
  const waiting = waits.begin('ask', file);
  const isAccepted = await accept({ file, content, record });
  recorder.record(...waiting.end());
  if (!isAccepted) return record;
  const { code: _code, message: _message, advice: _advice, places: _places, ...rest } = record;
  return { ...rest, passed: true, accepted: true };
}

/** The same for all entries of a call, whose records are the last of these. */
export async function allOffered(
  entries: readonly Expectation[],
  records: readonly ExpectRecord[],
  judging: Judging,
): Promise<ExpectRecord[]> {
  const offer = [...records];
  const from = records.length - entries.length;
  for (const [i, entry] of entries.entries()) offer[from + i] = await offered(entry, records[from + i]!, judging);
  return offer;
}

/** The response as a file: masked, JSON pretty, excepted places as the old file has them. */
function contentFor(
  file: string,
  body: Value,
  except: Extract<Expectation, { form: 'equals' }>['except'],
  judging: Judging,
): string | Uint8Array {
  const { context, frame } = judging;
  if (body instanceof Bytes) return body.data;
  if (!file.toLowerCase().endsWith('.json')) {
    return context.run.recorder.masked(typeof body === 'string' ? body : writeJson(body, 2));
  }
  const before = context.runHost.readFile(file);
  const old = 'bytes' in before ? readJson(new TextDecoder().decode(before.bytes)) : undefined;
  let value = body;
  if (old?.ok) {
    for (const { tree } of except) {
      for (const keys of keysFound(tree, { ...frame, body })) value = withOld(value, old.value, keys);
    }
  }
  return context.run.recorder.maskedJson(`${writeJson(value, 2)}\n`);
}

/** A value with one place as another value has it; unchanged where the other has nothing there. */
function withOld(value: Value, old: Maybe, [key, ...rest]: readonly (string | number)[]): Value {
  if (key === undefined) return old ?? value;
  if (typeof key === 'number') {
    return isList(value) && isList(old)
      ? value.map((item, i) => (i === key ? withOld(item, old[i], rest) : item))
      : value;
  }
  if (!isObject(value)) return value;
  const copy: Record<string, Value> = {};
  for (const [name, member] of Object.entries(value)) {
    defineMember(copy, name, name === key ? withOld(member, memberOf(old, name), rest) : member);
  }
  return copy;
}
