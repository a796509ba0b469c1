import { stepNumber } from '../../journal/address.ts';
import type { VNode } from 'preact';
import { crypto } from '../../packages.ts';
import { counted, grouped, spent } from '../../value/show.ts';
import { REPLY_LABELS, type Failure } from '../failure.ts';
import { stableName, type CallSummary, type ReadExchange, type RunSummary } from '../run-summary.ts';
import type { ReportFormat } from './definition.ts';
import { htmlPackages } from './html-loader.ts';
import { STYLE } from './html-style.ts';

/** Calls, failures and rows of the timeline that a page shows; of more it says how many. */
const MAX_CALLS = 500;
const MAX_FAILURES = 100;
const MAX_ROWS = 120;
/** Characters of a body that a page shows. */
const MAX_BODY = 20_000;

type Child = VNode | string | number | null | readonly Child[];
type Attributes = Readonly<Record<string, string | number | boolean>>;

/** An element. Everything in it is escaped: what servers send stays text. */
function el(tag: string, attributes: Attributes | null, ...children: readonly Child[]): VNode {
  return htmlPackages().h(tag, attributes, ...(children as VNode[])) as unknown as VNode;
}

/** One file that loads nothing and runs nothing: what failed and why, a timeline, every exchange to open. */
export const html: ReportFormat = {
  kind: 'html',
  about: 'a single page: failures, a timeline, every exchange',
  render: (runs, tool) => {
    const hash = crypto().createHash('sha256').update(STYLE).digest('base64');
    const policy = `default-src 'none'; style-src 'sha256-${hash}'; base-uri 'none'; form-action 'none'`;
    const title = runs.map(({ name, outcome }) => `${name}: ${outcome}`).join(', ');
    const page = el(
      'html',
      { lang: 'en' },
      el(
        'head',
        null,
        el('meta', { charset: 'utf-8' }),
        el('meta', { 'http-equiv': 'Content-Security-Policy', content: policy }),
        el('meta', { name: 'viewport', content: 'width=device-width, initial-scale=1' }),
        el('title', null, title),
        // A style is no text of the page: it is put in as it is, and holds nothing from outside.
        htmlPackages().h('style', { dangerouslySetInnerHTML: { __html: STYLE } }) as unknown as VNode,
      ),
      el(
        'body',
        null,
        el(
          'main',
          null,
          ...runs.map(runPart),
          el('p', { class: 'quiet' }, `Made by ${tool} from the journal of the run.`),
        ),
      ),
    );
    return [`<!doctype html>\n${htmlPackages().renderToString(page as never)}\n`];
  },
};

function runPart(run: RunSummary): VNode {
  const { name, outcome, where, id, startedMs, file } = run;
  const color = outcome === 'passed' ? 'good' : outcome === 'failed' ? 'bad' : 'warn';
  return el(
    'section',
    null,
    el('h1', null, name, el('span', { class: `badge ${color}` }, outcome)),
    el(
      'p',
      { class: 'quiet' },
      [
        where,
        id === '' ? 'could not run' : `run ${id}`,
        file,
        `${new Date(startedMs).toISOString().slice(0, 19).replace('T', ' ')} UTC`,
      ]
        .filter(Boolean)
        .join(' \u00b7 '),
    ),
    ...(id === '' ? [] : [facts(run)]),
    ...failuresPart(run),
    ...timelinePart(run),
    ...(run.calls.length === 0 ? [] : callsPart(run)),
    ...madePart(run),
  );
}

function facts({ totals, startedMs, endedMs, calls }: RunSummary): VNode {
  const fact = (value: string, label: string) =>
    el('div', { class: 'fact' }, el('b', null, value), el('span', null, label));
  const ofAll = (failed: number, all: number, what: string) =>
    failed > 0 ? fact(`${grouped(failed)} of ${grouped(all)}`, `${what} failed`) : fact(grouped(all), `${what} passed`);
  const waited = Object.entries(totals?.waited ?? {}).sort((left, right) => right[1] - left[1]);
  const sum = waited.reduce((all, [, ms]) => all + ms, 0);
  return el(
    'div',
    { class: 'facts' },
    ofAll(totals?.failed ?? 0, totals?.calls ?? calls.length, 'calls'),
    fact(grouped(totals?.exchanges ?? calls.length), 'requests'),
    ...(totals ? [ofAll(totals.expects - totals.passed, totals.expects, 'expectations')] : []),
    fact(spent(totals?.ms ?? endedMs - startedMs), 'total'),
    ...(sum >= 50
      ? [fact(spent(sum), `waiting (${waited.map(([why, ms]) => `${why} ${spent(ms)}`).join(', ')})`)]
      : []),
    ...((totals?.retried ?? 0) > 0 ? [fact(grouped(totals!.retried), 'needed several attempts')] : []),
  );
}

function failuresPart({ calls, others, groups }: RunSummary): readonly VNode[] {
  const failed = [
    ...calls.flatMap((call) => (call.failure ? [{ name: call.name, failure: call.failure, call }] : [])),
    ...others.map(({ name, failure }) => ({ name, failure, call: undefined })),
  ];
  if (failed.length === 0) return [];
  return [
    el('h2', null, `Failures (${grouped(failed.length)})`),
    ...groups.map((group) =>
      el(
        'p',
        { class: 'warn' },
        `${counted(group.count, 'item')} failed in the same way at ${group.step}: ${group.items}`,
        ...group.common.map((each) => el('span', { class: 'quiet' }, ` \u00b7 ${each}`)),
      ),
    ),
    ...failed.slice(0, MAX_FAILURES).map(({ name, failure, call }) => failureCard(name, failure, call)),
    ...(failed.length > MAX_FAILURES
      ? [el('p', { class: 'quiet' }, `and ${counted(failed.length - MAX_FAILURES, 'more failure')}, in the journal`)]
      : []),
  ];
}

function failureCard(name: string, failure: Failure, call: CallSummary | undefined): VNode {
  const { place, item, sections, reply } = failure;
  const rows = (of: readonly Readonly<{ label: string; text: string }>[]) =>
    of.length === 0
      ? null
      : el('dl', { class: 'rows' }, ...of.flatMap(({ label, text }) => [el('dt', null, label), el('dd', null, text)]));
  return el(
    'div',
    { class: 'card failed' },
    el(
      'h3',
      null,
      item === undefined ? name : `${name}, ${item}`,
      ' ',
      el('span', { class: 'quiet' }, place ? `${place.file}:${place.line}` : ''),
    ),
    call
      ? el('p', null, el('code', null, `${call.method} ${call.url}`), ` answered ${call.status ?? 'nothing'}`)
      : null,
    ...sections.map((section): VNode => {
      if (section.kind === 'problem') {
        const { code, message, advice, line } = section.problem;
        return el(
          'div',
          null,
          el('p', null, el('b', { class: 'bad' }, code), `: ${message}`),
          line === undefined ? null : el('pre', null, line.trim()),
          rows(section.rows),
          advice === undefined ? null : el('p', { class: 'quiet' }, advice),
        );
      }
      const { heading, verdict, because, why, advice, places } = section;
      const remarks = [because && `because ${because}`, why, advice].filter(Boolean).join('. ');
      return el(
        'div',
        null,
        el('p', null, el('code', null, heading), ' ', el('b', { class: 'bad' }, verdict)),
        remarks === '' ? null : el('p', { class: 'quiet' }, remarks),
        rows((places?.first ?? []).map(({ path, text }) => ({ label: path, text }))),
        rows(section.rows),
      );
    }),
    failure.tries === undefined ? null : el('p', { class: 'quiet' }, failure.tries),
    reply ? el('div', null, el('p', { class: 'quiet' }, REPLY_LABELS[reply.part]), el('pre', null, reply.text)) : null,
  );
}

/** A row for each call with what it sent, and what it waited for apart from that. */
function timelinePart(run: RunSummary): readonly VNode[] {
  const calls = run.calls
    .map((call) => ({ ...call, exchanges: [...call.earlier, ...call.exchanges] }))
    .filter(({ exchanges }) => exchanges.length > 0);
  if (calls.length === 0) return [];
  const shown = calls.slice(0, MAX_ROWS);
  const steps = new Set(shown.map(({ address }) => address));
  const from = Math.min(
    ...shown.flatMap(({ exchanges }) => exchanges.map(({ fromMs }) => fromMs)),
    ...run.waits.flatMap(({ step, atMs }) => (steps.has(step) ? [atMs] : [])),
  );
  const until = Math.max(...shown.flatMap(({ exchanges }) => exchanges.map(({ fromMs, ms }) => fromMs + ms)), from + 1);
  const [left, width, row] = [190, 1080, 15];
  const scale = htmlPackages()
    .scaleLinear()
    .domain([0, until - from])
    .range([left, width - 10]);
  const height = shown.length * row + 26;
  const byStep = new Map<string, { atMs: number; ms: number; why: string }[]>();
  for (const wait of run.waits) byStep.set(wait.step, [...(byStep.get(wait.step) ?? []), wait]);
  const rectangle = (kind: string, y: number, atMs: number, ms: number, title: string) =>
    el(
      'rect',
      {
        class: kind,
        x: scale(atMs - from).toFixed(1),
        y,
        width: Math.max(1.5, scale(ms) - left).toFixed(1),
        height: row - 5,
        rx: 2,
      },
      el('title', null, title),
    );
  const rows = shown.map((call, i) => {
    const y = i * row + 20;
    const waits = (byStep.get(call.address) ?? []).map(({ atMs, ms, why }) =>
      rectangle('waited', y, atMs, ms, `${why} ${spent(ms)}`),
    );
    const sent = call.exchanges.map(({ fromMs, ms, status, method, url }) => {
      const isBad = status === undefined || status >= 400;
      return rectangle(
        isBad ? 'sent bad' : 'sent',
        y,
        fromMs,
        ms,
        `${method} ${url} ${status ?? 'no response'} ${spent(ms)}`,
      );
    });
    return el('g', null, el('text', { x: 0, y: y + 9 }, shortened(stableName(call), 30)), ...waits, ...sent);
  });
  const ticks = scale
    .ticks(8)
    .map((tick) =>
      el(
        'g',
        null,
        el('line', { class: 'grid', x1: scale(tick), x2: scale(tick), y1: 16, y2: height }),
        el('text', { x: scale(tick) + 2, y: 10 }, tick === 0 ? '0' : spent(tick)),
      ),
    );
  const legend = el(
    'p',
    { class: 'legend quiet' },
    el('span', { class: 'key-sent' }),
    'sending and receiving',
    el('span', { class: 'key-bad' }),
    'an error, or no response',
    el('span', { class: 'key-wait' }),
    'waiting',
  );
  const more =
    calls.length > shown.length
      ? [el('p', { class: 'quiet' }, `the first ${grouped(shown.length)} of ${counted(calls.length, 'call')}`)]
      : [];
  return [
    el('h2', null, 'Timeline'),
    legend,
    el('svg', { viewBox: `0 0 ${width} ${height}`, role: 'img' }, ...ticks, ...rows),
    ...more,
  ];
}

function callsPart(run: RunSummary): readonly VNode[] {
  const { calls } = run;
  const shown = calls.slice(0, MAX_CALLS);
  const more =
    calls.length > shown.length
      ? [
          el(
            'p',
            { class: 'quiet' },
            `the first ${grouped(shown.length)} of ${counted(calls.length, 'call')}; the journal has all`,
          ),
        ]
      : [];
  return [el('h2', null, `Calls (${grouped(calls.length)})`), ...shown.map((call) => callPart(call, run)), ...more];
}

function callPart(call: CallSummary, run: RunSummary): VNode {
  const color = call.hasPassed ? 'good' : call.outcome === 'failed' ? 'bad' : 'warn';
  return el(
    'details',
    null,
    el(
      'summary',
      null,
      el('span', { class: 'quiet' }, stepNumber(call.address)),
      el('span', null, stableName(call)),
      el('span', { class: 'quiet' }, `${call.method} ${call.url}`),
      el('span', { class: color }, call.status ?? call.outcome),
      el('span', { class: 'time quiet' }, spent(call.ms)),
    ),
    el(
      'div',
      { class: 'inside' },
      call.why === undefined ? null : el('p', null, call.why),
      call.binds.length === 0
        ? null
        : el(
            'dl',
            { class: 'rows' },
            ...call.binds.flatMap(({ name, text, value }) => [
              el('dt', null, name),
              el('dd', null, value, el('span', { class: 'quiet' }, ` from ${text}`)),
            ]),
          ),
      ...[...call.earlier, ...call.exchanges, ...call.reused].flatMap((each) => {
        const exchange = run.exchange(each);
        return exchange ? [exchangePart(exchange, each.run)] : [];
      }),
    ),
  );
}

function exchangePart({ sent, answered, broken, body: read }: ReadExchange, from: string | undefined): VNode {
  const { method, url, headers, body } = sent.request;
  const lines = (of: readonly (readonly [string, string])[]) =>
    of.map(([name, value]) => `${name}: ${value}`).join('\n');
  const round = [
    sent.page && `page ${sent.page}`,
    sent.attempt && `look ${sent.attempt}`,
    sent.tryNumber > 1 && `try ${sent.tryNumber}`,
    sent.hop > 0 && 'redirected',
    from !== undefined && `reused from run ${from}`,
  ].filter(Boolean);
  return el(
    'div',
    { class: 'card' },
    round.length > 0 ? el('p', { class: 'quiet' }, round.join(', ')) : null,
    el('pre', null, `${method} ${url}\n${lines(headers)}`),
    bodyPart(read, body),
    answered
      ? el('pre', null, `${answered.http} ${answered.status} ${answered.reason}\n${lines(answered.headers)}`)
      : null,
    bodyPart(read, answered?.body),
    broken ? el('p', { class: 'bad' }, broken.message) : null,
  );
}

function bodyPart(read: ReadExchange['body'], ref: Parameters<ReadExchange['body']>[0]): VNode | null {
  if (!ref || ref.size === 0) return null;
  if (ref.type?.startsWith('image/') || ref.type === 'application/octet-stream')
    return el('p', { class: 'quiet' }, `${counted(ref.size, 'byte')} of ${ref.type}`);
  const content = read(ref);
  return content
    ? el('pre', null, shortened(new TextDecoder().decode(content), MAX_BODY))
    : el('p', { class: 'quiet' }, 'a body that is not in the record');
}

function madePart({ files, outputs, notes }: RunSummary): readonly VNode[] {
  const given = Object.entries(outputs);
  return [
    ...(given.length > 0
      ? [
          el('h2', null, 'Outputs'),
          el(
            'dl',
            { class: 'rows' },
            ...given.flatMap(([name, value]) => [el('dt', null, name), el('dd', null, value)]),
          ),
        ]
      : []),
    ...(files.length > 0
      ? [
          el('h2', null, 'Files'),
          el(
            'table',
            null,
            ...files.map(({ path, op, rows, after }) =>
              el(
                'tr',
                null,
                el('td', null, path),
                el('td', null, op),
                el('td', { class: 'number' }, rows === undefined ? '' : counted(rows, 'row')),
                el('td', { class: 'number' }, counted(after.size, 'byte')),
              ),
            ),
          ),
        ]
      : []),
    ...(notes.length > 0
      ? [
          el('h2', null, 'Notes'),
          ...notes
            .slice(0, MAX_FAILURES)
            .map(({ level, code, message }) =>
              el('p', null, el('b', { class: 'warn' }, `${level} ${code}`), `: ${message}`),
            ),
        ]
      : []),
  ];
}

function shortened(text: string, most: number): string {
  return text.length > most ? `${text.slice(0, most - 1)}\u2026` : text;
}
