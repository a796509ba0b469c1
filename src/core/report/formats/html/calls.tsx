import { readableText } from '../../../http/decode.ts';
import type { VNode } from 'preact';
import { stepNumber } from '../../../journal/address.ts';
import { counted, grouped, spent } from '../../../value/show.ts';
import { stableName, type CallSummary } from '../../call-summary.ts';
import type { ReadExchange } from '../../exchange.ts';
import type { RunSummary } from '../../run-summary.ts';
import { shortened, firstOf } from './parts.tsx';

/** Calls that a page shows, and characters of a body. */
const MAX_CALLS = 500;
const MAX_BODY = 20_000;
/** Characters of a body that is laid out for reading. */
const MAX_READ = 10 * MAX_BODY;

/** Every call, to open: what it kept, and each exchange. */
export function Calls({ run }: Readonly<{ run: RunSummary }>): VNode | null {
  const { calls } = run;
  if (calls.length === 0) return null;
  const shown = firstOf(calls, MAX_CALLS);
  const more = `the first ${grouped(shown.length)} of ${counted(calls.length, 'call')}; the journal has all`;
  return (
    <>
      <h2>{`Calls (${grouped(calls.length)})`}</h2>
      {shown.map((call) => (
        <Call call={call} run={run} />
      ))}
      {calls.length > shown.length ? <p class="quiet">{more}</p> : null}
    </>
  );
}

function Call({ call, run }: Readonly<{ call: CallSummary; run: RunSummary }>): VNode {
  const color = call.hasPassed ? 'good' : call.outcome === 'failed' ? 'bad' : 'warn';
  return (
    <details>
      <summary>
        <span class="quiet">{stepNumber(call.address)}</span>
        <span>{stableName(call)}</span>
        <span class="quiet">{`${call.method} ${call.url}`}</span>
        <span class={color}>{call.status ?? call.outcome}</span>
        <span class="time quiet">{spent(call.ms)}</span>
      </summary>
      <div class="inside">
        {call.why === undefined ? null : <p>{call.why}</p>}
        <Kept call={call} />
        {[...call.earlier, ...call.exchanges, ...call.reused].map((each) => {
          const exchange = run.exchange(each);
          return exchange ? <Exchange exchange={exchange} from={each.run} /> : null;
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

function Exchange({ exchange, from }: Readonly<{ exchange: ReadExchange; from: string | undefined }>): VNode {
  const { sent, answered, broken, body: read } = exchange;
  const { method, url, headers, body } = sent.request;
  const round = roundOf(exchange, from);
  return (
    <div class="card">
      {round === '' ? null : <p class="quiet">{round}</p>}
      <pre>{`${method} ${url}\n${headerLines(headers)}`}</pre>
      <Body read={read} reference={body} />
      {answered ? (
        <pre>{`${answered.http} ${answered.status} ${answered.reason}\n${headerLines(answered.headers)}`}</pre>
      ) : null}
      <Body read={read} reference={answered?.body} />
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

function Body({ read, reference }: Readonly<{ read: Read; reference: Parameters<Read>[0] }>): VNode | null {
  if (!reference || reference.size === 0) return null;
  const { type, size } = reference;
  if (type?.startsWith('image/') || type === 'application/octet-stream')
    return <p class="quiet">{`${counted(size, 'byte')} of ${type}`}</p>;
  const content = read(reference);
  if (!content) return <p class="quiet">a body that is not in the record</p>;
  const text = new TextDecoder().decode(content);
  // Of a long one the beginning is shown, and it is not read for that.
  return <pre>{shortened(text.length > MAX_READ ? text : readableText(text, type), MAX_BODY)}</pre>;
}
