import { readableText } from '../../../http/decode.ts';
import type { VNode } from 'preact';
import { stepNumber } from '../../../journal/address.ts';
import { counted, grouped, spent } from '../../../value/show.ts';
import { stableName, type CallSummary } from '../../call-summary.ts';
import type { ReadExchange } from '../../exchange.ts';
import type { RunSummary } from '../../run-summary.ts';
import { shortened } from './parts.tsx';

/** Calls that a page shows beside those that failed, failed ones, and characters of a body. */
const MAX_OTHERS = 200;
const MAX_FAILED = 200;
const MAX_BODY = 20_000;
/** Characters of a body that is laid out for reading. */
const MAX_READ = 10 * MAX_BODY;
/** Characters of all bodies together: with the rest of the page, fewer than 5 MB. */
const MAX_ALL = 3_000_000;

/** Room for bodies that is left in a page. */
type Room = { left: number };

/** Calls to open: what each kept, and its exchanges. Those that failed, and the first of the others. */
export function Calls({ run }: Readonly<{ run: RunSummary }>): VNode | null {
  const { calls } = run;
  if (calls.length === 0) return null;
  const failed = new Set(calls.failures.slice(0, MAX_FAILED).map(({ address }) => address));
  const shown = chosen(calls, failed);
  const room = { left: MAX_ALL };
  const more = `${grouped(shown.length)} of ${counted(calls.length, 'call')}: what failed, and the first of the others. The rest: batharon look CALL --item N --run ${run.id}`;
  return (
    <>
      <h2>{`Calls (${grouped(calls.length)})`}</h2>
      {calls.length > shown.length ? <p class="quiet">{more}</p> : null}
      {shown.map((call) => (
        <Call call={call} run={run} room={room} />
      ))}
    </>
  );
}

/** Goes over the calls as long as one of them is to be shown. */
function chosen(calls: RunSummary['calls'], failed: ReadonlySet<string>): readonly CallSummary[] {
  const shown: CallSummary[] = [];
  let [others, left] = [0, failed.size];
  for (const call of calls) {
    const hasFailed = failed.has(call.address);
    if (hasFailed) left--;
    else if (others++ >= MAX_OTHERS) {
      if (left <= 0) break;
      continue;
    }
    shown.push(call);
  }
  return shown;
}

type CallProps = Readonly<{ call: CallSummary; run: RunSummary; room: Room }>;

function Call({ call, run, room }: CallProps): VNode {
  const color = call.hasPassed ? 'good' : call.outcome === 'failed' ? 'bad' : 'warn';
  return (
    <details>
      <summary>
        <span class="quiet">{stepNumber(call.address)}</span>
        <span>{stableName(call)}</span>
        <span class="quiet">{`${call.method} ${call.url}`}</span>
        <span class={color}>{`${call.hasPassed ? '' : '✗ '}${call.status ?? call.outcome}`}</span>
        <span class="time quiet">{spent(call.ms)}</span>
      </summary>
      <div class="inside">
        {call.why === undefined ? null : <p>{call.why}</p>}
        <Kept call={call} />
        {[...call.earlier, ...call.exchanges, ...call.reused].map((each) => {
          const exchange = run.exchange(each);
          return exchange ? <Exchange exchange={exchange} from={each.run} room={room} /> : null;
        })}
      </div>
    </details>
  );
}

function Kept({ call: { binds } }: Readonly<{ call: CallSummary }>): VNode | null {
  if (binds.length === 0) return null;
  return (
    <dl class="rows">
      {binds.map(({ name, text, value }) => (
        <>
          <dt>{name}</dt>
          <dd>
            {value}
            <span class="quiet">{` from ${text}`}</span>
          </dd>
        </>
      ))}
    </dl>
  );
}

type ExchangeProps = Readonly<{ exchange: ReadExchange; from: string | undefined; room: Room }>;

function Exchange({ exchange, from, room }: ExchangeProps): VNode {
  const { sent, answered, broken, body: read } = exchange;
  const { method, url, headers, body } = sent.request;
  const round = roundOf(exchange, from);
  return (
    <div class="card">
      {round === '' ? null : <p class="quiet">{round}</p>}
      <pre tabIndex={0}>{`${method} ${url}\n${headerLines(headers)}`}</pre>
      <Body read={read} reference={body} room={room} />
      {answered ? (
        <pre
          tabIndex={0}
        >{`${answered.http} ${answered.status} ${answered.reason}\n${headerLines(answered.headers)}`}</pre>
      ) : null}
      <Body read={read} reference={answered?.body} room={room} />
      {broken ? <p class="bad">{broken.message}</p> : null}
    </div>
  );
}

function headerLines(headers: readonly (readonly [string, string])[]): string {
  return headers.map(([name, value]) => `${name}: ${value}`).join('\n');
}

/** Which request of its call it was. */
function roundOf({ sent }: ReadExchange, from: string | undefined): string {
  const parts = [
    sent.page && `page ${sent.page}`,
    sent.attempt && `poll ${sent.attempt}`,
    sent.tryNumber > 1 && `try ${sent.tryNumber}`,
    sent.hop > 0 && 'redirected',
    from !== undefined && `reused from run ${from}`,
  ];
  return parts.filter(Boolean).join(', ');
}

type Read = ReadExchange['body'];

type BodyProps = Readonly<{ read: Read; reference: Parameters<Read>[0]; room: Room }>;

function Body({ read, reference, room }: BodyProps): VNode | null {
  if (!reference || reference.size === 0) return null;
  const { type, size } = reference;
  if (type?.startsWith('image/') || type === 'application/octet-stream')
    return <p class="quiet">{`${counted(size, 'byte')} of ${type}`}</p>;
  if (room.left < 100) return <p class="quiet">{`${counted(size, 'byte')}, left out of this page`}</p>;
  const content = read(reference);
  if (!content) return <p class="quiet">a body that is not in the record</p>;
  const text = new TextDecoder().decode(content);
  // Of a long one the beginning is shown, and it is not read for that.
  const shown = shortened(text.length > MAX_READ ? text : readableText(text, type), Math.min(MAX_BODY, room.left));
  room.left -= shown.length;
  return <pre tabIndex={0}>{shown}</pre>;
}
