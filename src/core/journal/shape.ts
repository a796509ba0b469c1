import {
  flag,
  instant,
  isMapping,
  json,
  list,
  maybe,
  members,
  number,
  orNull,
  record,
  text,
  type Check,
} from './shape-checks.ts';
import type {
  Bind,
  BodyPlaces,
  BodyRef,
  ExpectRecord,
  FailureGroup,
  ItemRecord,
  PlaceholderRecord,
  PlaceRef,
  ProblemRecord,
  Read,
  RecordedRequest,
  Reply,
  Seen,
  Stored,
  Totals,
  OperationRef,
} from './records.ts';
import type { Header } from '../http/message.ts';
import type { EventBody, Json, JournalEvent } from './events.ts';

const isTrue = (value: unknown): value is true => value === true;
const header: Check<Header> = (value): value is Header => list(text)(value) && value.length === 2;

const bodyRef: Check<BodyRef> = (value): value is BodyRef =>
  isMapping(value) &&
  [text(value['text']), text(value['file']), text(value['dropped']), isPlaceOfBody(value['at'])].includes(true) &&
  number(value['size']) &&
  maybe(text)(value['sha256']) &&
  maybe(text)(value['type']);
const isPlaceOfBody = (value: unknown): boolean => list(number)(value) && value.length === 3;

const stored: Check<Stored> = (value): value is Stored =>
  isMapping(value) &&
  ('json' in value ||
    value['nothing'] === true ||
    text(value['secret']) ||
    (text(value['as']) && text(value['text'])) ||
    (number(value['from']) && text(value['expr']) && text(value['type'])) ||
    (bodyRef(value['body']) && text(value['type'])));

const place = members<PlaceRef>({ file: text, line: number, column: number, length: number });
const read = members<Read>({ name: text, from: maybe(text) });
const request = members<RecordedRequest>({ method: text, url: text, headers: list(header), body: maybe(bodyRef) });
const callbackAnswer = members<NonNullable<Body<'called-back'>['answer']>>({
  headers: list(header),
  body: maybe(bodyRef),
});
const placeholder = members<PlaceholderRecord>({ place: text, text: text, reads: list(read) });
const seen = members<Seen>({ text, value: stored, reads: maybe(list(read)) });
const places = members<BodyPlaces>({ count: number, first: list(members({ path: text, text })) });
const offender = members<{ number: number; place: string; seen: Seen[] }>({ number, place: text, seen: list(seen) });
const expectation = members<ExpectRecord>({
  source: maybe(place),
  text,
  because: maybe(text),
  passed: flag,
  page: maybe(number),
  of: maybe<'api' | 'call' | 'contract' | 'default'>(text),
  code: maybe(text),
  message: maybe(text),
  advice: maybe(text),
  foundNothing: maybe(isTrue),
  seen: maybe(list(seen)),
  offenders: maybe(members({ count: number, of: number, first: list(offender) })),
  places: maybe(places),
  accepted: maybe(isTrue),
});
const bind = members<Bind>({
  name: text,
  value: stored,
  text,
  source: place,
  reads: list(read),
  masked: maybe(isTrue),
});
const problem = members<ProblemRecord>({
  code: text,
  message: text,
  advice: maybe(text),
  reply: maybe(members<Reply>({ part: text, text })),
  source: maybe(place),
  line: maybe(text),
  seen: maybe(
    list(members<Seen & { before?: string }>({ text, value: stored, reads: maybe(list(read)), before: maybe(text) })),
  ),
});
const item = members<ItemRecord>({ number, id: text, label: maybe(text) });
const group = members<FailureGroup>({
  step: text,
  status: orNull(number),
  code: text,
  count: number,
  items: text,
  first: number,
  common: list(text),
});
const file = members<{ path: string; sha256: string }>({ path: text, sha256: text });
const totals = members<Totals>({
  calls: number,
  failed: number,
  exchanges: number,
  expects: number,
  passed: number,
  retried: number,
  notes: maybe(number),
  contracts: maybe(
    list(members<{ file: string; exercised: number; of: number }>({ file: text, exercised: number, of: number })),
  ),
  ms: number,
  waited: record(number) as Check<Totals['waited']>,
});
const drawn: Check<[string, Json]> = (value): value is [string, Json] =>
  Array.isArray(value) && value.length === 2 && text(value[0]);

type Body<T extends EventBody['type']> = Omit<Extract<EventBody, { type: T }>, 'type'>;
const is = <T extends EventBody['type']>(checks: { readonly [K in keyof Body<T>]-?: Check<Body<T>[K]> }) =>
  members<Body<T>>(checks);

const EVENTS: { readonly [T in EventBody['type']]: Check<Body<T>> } = {
  run: is<'run'>({
    v: (value): value is 2 => value === 2,
    run: text,
    tool: text,
    chain: text,
    name: text,
    files: list(file),
    inputs: record(stored),
    remembered: record(stored),
    apis: list(members({ name: text, deployment: orNull(text), url: text })),
    seed: text,
    now: orNull(text),
    zone: text,
    options: json,
  }),
  sent: is<'sent'>({
    x: number,
    step: text,
    key: text,
    purpose: text,
    page: maybe(number),
    attempt: maybe(number),
    tryNumber: number,
    hop: number,
    api: text,
    request,
    placeholders: maybe(list(placeholder)),
    operation: maybe(members<OperationRef>({ name: text, file: text })),
    idempotencyKey: maybe(text),
    repeatable: flag,
    changing: flag,
    requestFingerprint: maybe(text),
    flushed: flag,
  }),
  answered: is<'answered'>({
    x: number,
    status: number,
    reason: text,
    http: text,
    headers: list(header),
    body: maybe(bodyRef),
    decoded: text,
    encodedSize: number,
    remote: maybe(text),
    reused: flag,
    setCookies: maybe(list(text)),
    timings: record(number) as unknown as Check<Body<'answered'>['timings']>,
  }),
  broken: is<'broken'>({ x: number, cause: text, phase: text, reached: text, message: text }),
  ended: is<'ended'>({
    step: text,
    key: text,
    kind: text,
    name: maybe(text),
    outcome: text,
    from: maybe(members({ run: text, x: list(number) })),
    requestFingerprint: maybe(text),
    requestText: maybe(text),
    assertionFingerprint: maybe(text),
    item: maybe(item),
    counts: maybe(members({ done: number, failed: number, skipped: number })),
    groups: maybe(list(group)),
    why: maybe(text),
    x: maybe(list(number)),
    ms: number,
    waitedMs: maybe(number),
    tries: maybe(number),
    tried: maybe(list(text)),
    expects: maybe(list(expectation)),
    binds: maybe(list(bind)),
    drew: maybe(list(drawn)),
    problem: maybe(problem),
    problems: maybe(list(problem)),
  }),
  opened: is<'opened'>({
    step: text,
    key: text,
    kind: text,
    branch: maybe<'steps' | 'otherwise'>(text),
    text: maybe(text),
    total: maybe(number),
    selected: maybe(number),
    steps: maybe(number),
    reads: maybe(list(read)),
    item: maybe(item),
    round: maybe(number),
  }),
  kept: is<'kept'>({ step: text, items: number }),
  attempted: is<'attempted'>({
    step: text,
    attempt: number,
    seen: record(stored),
    progress: maybe(number),
    done: text,
  }),
  again: is<'again'>({ x: number, why: text, after: number }),
  waited: is<'waited'>({ step: text, why: text, ms: number, detail: maybe(text) }),
  settled: is<'settled'>({
    step: text,
    key: text,
    as: text,
    requestFingerprint: maybe(text),
    kept: maybe(record(stored)),
  }),
  resumed: is<'resumed'>({ files: list(file), options: json }),
  undo: is<'undo'>({ n: number, step: text, key: text }),
  undone: is<'undone'>({ n: number, step: text, key: text, outcome: text }),
  credential: is<'credential'>({
    api: text,
    deployment: orNull(text),
    scheme: text,
    expires: maybe(instant),
    refreshed: flag,
    asked: maybe(text),
    given: maybe(text),
    claims: maybe(record(json)),
    otherClaims: maybe(list(text)),
  }),
  file: is<'file'>({
    step: text,
    path: text,
    op: text,
    before: maybe(members({ size: number })),
    after: members<{ size: number; sha256?: string }>({ size: number, sha256: maybe(text) }),
    rows: maybe(number),
  }),
  listening: is<'listening'>({ name: text, step: text, url: text, port: number, path: text }),
  'called-back': is<'called-back'>({
    name: text,
    step: text,
    request,
    answered: number,
    answer: maybe(callbackAnswer),
  }),
  said: is<'said'>({ step: text, text }),
  note: is<'note'>({ code: text, level: text, message: text, step: maybe(text), source: maybe(place) }),
  paused: is<'paused'>({
    why: text,
    exit: number,
    until: maybe(instant),
    step: maybe(text),
    detail: maybe(text),
    totals,
  }),
  finished: is<'finished'>({ outcome: text, exit: number, outputs: record(stored), totals }),
};

/** Whether what stands in a line of a journal is an event. Readers ignore types that they do not know. */
export function isEvent(value: unknown): value is JournalEvent {
  if (!isMapping(value)) return false;
  const { type, seq, at } = value;
  if (typeof type !== 'string' || !Number.isSafeInteger(seq) || !instant(at)) return false;
  return !Object.hasOwn(EVENTS, type) || EVENTS[type as EventBody['type']](value);
}
