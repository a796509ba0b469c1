import { streamedList, type ListKept } from '../../chain/streamable-lists.ts';
import type { DecodedAs } from '../../http/decode.ts';
import type { ListForm } from '../../http/list-sink.ts';
import type { RecordedCall } from '../../journal/call-records.ts';
import { LINES_TYPE } from '../../journal/stored.ts';
import type { Items, Value } from '../../value/value.ts';
import type { Replayed } from '../recorded.ts';
import type { CallSite } from './site.ts';

type Streamed = ListKept & Pick<ListForm, 'kind'>;

/** The list of a call's response that a loop alone goes over; nothing where the body is read otherwise, too. */
export function streamedListOf({ step, endpoint, context }: CallSite, as: DecodedAs): Streamed | undefined {
  if (endpoint?.contract || context.run.accept || (as !== 'json' && as !== 'ndjson' && as !== 'csv')) return undefined;
  const kept = streamedList(context.chain, step, endpoint?.expect ?? []);
  // Rows are not inside of anything.
  return kept && (as === 'json' || kept.path.length === 0) ? { ...kept, kind: as } : undefined;
}

/** A body that holds nothing but a list at its place. */
export function bodyWith(list: Items, { path }: Pick<ListKept, 'path'>): Value {
  return [...path].reverse().reduce<Value>((value, key) => {
    if (typeof key === 'string') return { [key]: value };
    return [...Array<null>(key).fill(null), value];
  }, list as Value);
}

/** A recorded response whose list stands in lines, as it is kept now; or that it is gone. Nothing of any other. */
export function recordedList(site: CallSite, call: RecordedCall): Pick<Replayed, 'decoded'> | 'gone' {
  const isStreamed = call.exchanges.some(
    ({ answered: { body } }) => body && 'dropped' in body && body.dropped === 'streamed',
  );
  if (!isStreamed) return {};
  const kept = streamedListOf(site, call.exchanges.at(-1)!.answered.decoded);
  const bind = call.ended.binds?.find(({ name, text }) => name === kept?.name && text === kept.text);
  if (!kept || !bind || !('body' in bind.value) || bind.value.body.type !== LINES_TYPE) return 'gone';
  const list = call.list(bind.value.body, bind.value.length ?? 0);
  return list ? { decoded: { as: kept.kind, value: bodyWith(list, kept) } } : 'gone';
}
