import type { EachStep } from '../chain/model.ts';
import { diagnosticIn, wholeOf } from '../diagnostics/source.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import type { ProblemRecord } from '../journal/events.ts';
import { crypto } from '../packages.ts';
import { canonicalJson } from '../value/canonical.ts';
import { textOf } from '../value/text.ts';
import { showValue } from '../value/show.ts';
import { isList, isObject, type Value } from '../value/value.ts';
import { problemRecord } from './places.ts';
import type { ItemAt } from './steps/each.ts';

export type Identities =
  Readonly<{ ids: readonly Readonly<{ id: string; label?: string }>[] }> | Readonly<{ problem: ProblemRecord }>;

/**
 * What each item is matched by when lists change: what it is known by, else the hash of its canonical JSON (RFC 8785).
 * Equal ones are told apart by their order; two of one `known-by` are an error.
 */
export function identitiesOf(step: EachStep, list: readonly Value[], frameOf: (item: ItemAt) => Frame): Identities {
  const seen = new Map<string, number>();
  const ids: { id: string; label?: string }[] = [];
  for (const [index, value] of list.entries()) {
    const known = step.knownBy && knownAs(step.knownBy, frameOf({ index, value, id: '' }));
    if (known && 'problem' in known) return { problem: problemAt(step, index, known.problem) };
    const id = known ? known.label : shortHash(canonicalJson(value));
    const before = seen.get(id);
    if (before !== undefined && known) {
      const message = `Items ${before + 1} and ${index + 1} are both known by ${showValue(known.label)}`;
      return { problem: problemAt(step, index, { code: 'known-by-twice', message }) };
    }
    const count = before ?? 0;
    seen.set(id, known ? index : count + 1);
    ids.push(known ? { id, label: known.label } : { id: count === 0 ? id : `${id}~${count + 1}` });
  }
  return { ids };
}

function shortHash(text: string): string {
  return crypto().createHash('sha256').update(text).digest('hex').slice(0, 16);
}

type Wrong = Readonly<{ code: 'known-by-twice' | 'found-nothing'; message: string }>;

function knownAs(
  { tree, source }: NonNullable<EachStep['knownBy']>,
  frame: Frame,
): Readonly<{ label: string }> | Readonly<{ problem: Wrong }> {
  const { value } = evaluate(tree!, frame);
  const text = value === undefined || value === null || isList(value) || isObject(value) ? undefined : textOf(value);
  if (typeof text === 'string') return { label: text };
  const message =
    value === undefined ? `${source.text} finds nothing` : `${source.text} is ${showValue(value)}, which names no item`;
  return { problem: { code: 'found-nothing', message } };
}

function problemAt({ knownBy }: EachStep, index: number, { code, message }: Wrong): ProblemRecord {
  const { source } = knownBy!;
  const advice = 'known-by: wants a text or number that differs from item to item.';
  const told = code === 'found-nothing' ? `${message}, for item ${index + 1}` : message;
  return problemRecord(diagnosticIn(source, { code, range: wholeOf(source), message: told, advice }));
}
