import type { BodyRef, EventOf, FailureGroup, JournalEvent, Totals } from '../journal/events.ts';
import { isDone } from '../journal/call-records.ts';
import { exchangesOf, tookOf, type ExchangeRecord } from './exchange.ts';
import { explainFailure, type Failure } from './failure.ts';
import { History, loopOf, stepName, storedBriefly } from './history.ts';

/** A run as reports tell it, from its events alone. */
export type ToldRun = Readonly<{
  id: string;
  /** The chain's name, and its file in the project. */
  name: string;
  file: string;
  where: string;
  startedMs: number;
  endedMs: number;
  /** `open` of a run that was killed, goes on, or pauses. */
  outcome: 'passed' | 'failed' | 'open';
  exit: number | undefined;
  totals: Totals | undefined;
  calls: readonly ToldCall[];
  /** Failed steps that are no calls, such as loops, writes and stops. */
  others: readonly ToldFailure[];
  groups: readonly FailureGroup[];
  waits: readonly Readonly<{ step: string; why: string; atMs: number; ms: number }>[];
  notes: readonly EventOf<'note'>[];
  files: readonly EventOf<'file'>[];
  gives: Readonly<Record<string, string>>;
  exchanges: ReadonlyMap<number, ExchangeRecord>;
  body(ref: BodyRef | undefined): Uint8Array | undefined;
}>;

/** One call of a run, as it ended. */
export type ToldCall = Readonly<{
  address: string;
  name: string;
  /** The item of a loop that it was for: its label or number. */
  item: string | undefined;
  outcome: EventOf<'ended'>['outcome'];
  isHeld: boolean;
  ms: number;
  waitedMs: number;
  tries: number;
  endedMs: number;
  why: string | undefined;
  method: string;
  url: string;
  status: number | undefined;
  binds: readonly Readonly<{ name: string; text: string; value: string }>[];
  exchanges: readonly ExchangeRecord[];
  failure: Failure | undefined;
}>;

export type ToldFailure = Readonly<{ address: string; name: string; failure: Failure }>;

/** Tells a run. */
export function tellRun(events: readonly JournalEvent[], body: (ref: BodyRef) => Uint8Array | undefined): ToldRun {
  const history = new History();
  const all = new Map(exchangesOf(events).map((each) => [each.sent.x, each]));
  const calls = new Map<string, ToldCall>();
  const others: ToldFailure[] = [];
  const groups: FailureGroup[] = [];
  const waits: { step: string; why: string; atMs: number; ms: number }[] = [];
  const labels = new Map<string, string>();
  for (const event of events) {
    history.add(event);
    if (event.type === 'opened' && event.item) labels.set(event.step, event.item.label ?? String(event.item.number));
    if (event.type === 'waited')
      waits.push({ step: event.step, why: event.why, atMs: event.at - event.ms, ms: event.ms });
    if (event.type !== 'ended') continue;
    groups.push(...(event.groups ?? []));
    const failure = event.outcome === 'failed' ? explainFailure(event, history) : undefined;
    // A call that was done again when the run went on is told as it ended last.
    if (event.kind === 'call') calls.set(event.step, toldCall(event, all, labels, failure));
    else if (failure && event.problem) others.push({ address: event.step, name: stepName(event.step), failure });
  }
  const run = events.find((event) => event.type === 'run')!;
  const end = events.findLast((event) => event.type === 'finished' || event.type === 'paused');
  return {
    id: run.run,
    name: run.name,
    file: run.chain,
    where: run.apis.map(({ name, deployment }) => (deployment === null ? name : `${name} at ${deployment}`)).join(', '),
    startedMs: run.at,
    endedMs: events.at(-1)!.at,
    outcome: end?.type === 'finished' ? end.outcome : 'open',
    exit: end?.exit,
    totals: end?.totals,
    calls: [...calls.values()].sort((left, right) => begunMs(left) - begunMs(right)),
    others,
    groups,
    waits,
    notes: events.filter((event) => event.type === 'note'),
    files: events.filter((event) => event.type === 'file' && !event.before) as EventOf<'file'>[],
    gives:
      end?.type === 'finished'
        ? Object.fromEntries(Object.entries(end.gives).map(([name, stored]) => [name, storedBriefly(stored)]))
        : {},
    exchanges: all,
    body: (ref) => ref && body(ref),
  };
}

function toldCall(
  event: EventOf<'ended'>,
  all: ReadonlyMap<number, ExchangeRecord>,
  labels: ReadonlyMap<string, string>,
  failure: Failure | undefined,
): ToldCall {
  const exchanges = (event.x ?? []).flatMap((x) => all.get(x) ?? []);
  const first = exchanges[0]?.sent.request;
  const loop = loopOf(event.step);
  const number = loop === undefined ? undefined : /^#(\d+)/.exec(event.step.slice(loop.length))?.[1];
  const item = number === undefined ? undefined : (event.item?.label ?? labels.get(`${loop}#${number}`) ?? number);
  return {
    address: event.step,
    name: event.name ?? stepName(event.step),
    item,
    outcome: event.outcome,
    isHeld: isDone(event),
    ms: event.ms,
    waitedMs: event.waitedMs ?? 0,
    tries: event.tries ?? 1,
    endedMs: event.at,
    why: event.why,
    method: first?.method ?? '',
    url: first?.url ?? '',
    status: exchanges.at(-1)?.answered?.status,
    binds: (event.binds ?? []).map(({ name, text, value }) => ({ name, text, value: storedBriefly(value) })),
    exchanges,
    failure,
  };
}

/** In the order in which they began. */
function begunMs({ exchanges, endedMs, ms }: ToldCall): number {
  return exchanges[0]?.sent.at ?? endedMs - ms;
}

/** The name of a call that stays the same from run to run: with the item that it was for. */
export function stableName({ name, item }: Pick<ToldCall, 'name' | 'item'>): string {
  return item === undefined ? name : `${name} [${item}]`;
}

/** Why a step failed, in one line. */
export function reasonOf(failure: Failure): string {
  const [first] = failure.sections;
  if (!first) return 'failed';
  if (first.kind === 'problem') return `${first.problem.code}: ${first.problem.message}`;
  return [`${first.heading} ${first.verdict}`, first.why].filter(Boolean).join(': ');
}

/** The same with all that is known, in lines of plain text. */
export function failureLines(failure: Failure): readonly string[] {
  const sections = failure.sections.flatMap((section) => {
    const rows = section.rows.map(({ label, text }) => `  ${label}   ${text}`);
    if (section.kind === 'problem') {
      const { code, message, advice } = section.problem;
      return [`${code}: ${message}`, ...rows, ...(advice === undefined ? [] : [advice])];
    }
    const { heading, verdict, because, why, places, advice } = section;
    const wrong = (places?.first ?? []).map(({ path, text }) => `  ${path}   ${text}`);
    return [
      `${heading}   ${verdict}`,
      ...[because, why, advice].filter((each) => each !== undefined),
      ...wrong,
      ...rows,
    ];
  });
  const said = failure.said ? ['the server said', ...failure.said.split('\n').map((line) => `  ${line}`)] : [];
  return [...sections, ...said];
}

/** When the request of an exchange went out, and for how many milliseconds; nothing for one without an answer. */
export function spanOf(exchange: ExchangeRecord): Readonly<{ fromMs: number; ms: number }> {
  const { sent, answered, broken } = exchange;
  const ms = tookOf(exchange) ?? Math.max(0, (broken?.at ?? answered?.at ?? sent.at) - sent.at);
  return { fromMs: sent.at, ms };
}
