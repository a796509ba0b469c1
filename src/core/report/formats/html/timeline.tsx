import { scaleLinear } from 'd3-scale';
import type { VNode } from 'preact';
import { counted, grouped, spent } from '../../../value/show.ts';
import { stableName, type CallSummary } from '../../call-summary.ts';
import { type RunSummary } from '../../run-summary.ts';
import { shortened } from './parts.tsx';

/** Rows that are drawn, and the measures of one in the picture. */
const MAX_ROWS = 120;
const ROW = 15;
const TOP = 20;
const LEFT = 190;
const WIDTH = 1080;

type Waits = RunSummary['waits'];
type Scale = (ms: number) => number;

/** A row for each call with what it sent, and what it waited for apart from that. */
export function Timeline({ run }: Readonly<{ run: RunSummary }>): VNode | null {
  const shown: CallSummary[] = [];
  let count = 0;
  for (const call of run.calls) {
    const exchanges = [...call.earlier, ...call.exchanges];
    if (exchanges.length > 0 && ++count <= MAX_ROWS) shown.push({ ...call, exchanges });
  }
  if (count === 0) return null;
  const { from, until } = extentOf(shown, run.waits);
  const scale = scaleLinear()
    .domain([0, until - from])
    .range([LEFT, WIDTH - 10]);
  const height = shown.length * ROW + 26;
  return (
    <>
      <h2>Timeline</h2>
      <p class="legend quiet">
        <span class="key-sent" />
        sending and receiving
        <span class="key-bad" />
        an error, or no response
        <span class="key-wait" />
        waiting
      </p>
      <svg viewBox={`0 0 ${WIDTH} ${height}`} role="img">
        {scale.ticks(8).map((tick) => (
          <g>
            <line class="grid" x1={scale(tick)} x2={scale(tick)} y1={16} y2={height} />
            <text x={scale(tick) + 2} y={10}>
              {tick === 0 ? '0' : spent(tick)}
            </text>
          </g>
        ))}
        {shown.map((call, i) => (
          <Row
            call={call}
            waits={run.waits.filter(({ step }) => step === call.address)}
            y={i * ROW + TOP}
            {...{ from, scale }}
          />
        ))}
      </svg>
      {count > shown.length ? (
        <p class="quiet">{`the first ${grouped(shown.length)} of ${counted(count, 'call')}`}</p>
      ) : null}
    </>
  );
}

/** When the first of what is drawn began, and the last ended. */
function extentOf(calls: readonly CallSummary[], waits: Waits): Readonly<{ from: number; until: number }> {
  const steps = new Set(calls.map(({ address }) => address));
  const exchanges = calls.flatMap((call) => call.exchanges);
  const begun = waits.flatMap(({ step, atMs }) => (steps.has(step) ? [atMs] : []));
  const from = Math.min(...exchanges.map(({ fromMs }) => fromMs), ...begun);
  return { from, until: Math.max(...exchanges.map(({ fromMs, ms }) => fromMs + ms), from + 1) };
}

function Row({
  call,
  waits,
  y,
  from,
  scale,
}: Readonly<{ call: CallSummary; waits: Waits; y: number; from: number; scale: Scale }>): VNode {
  const at = (atMs: number, ms: number) => ({
    x: scale(atMs - from).toFixed(1),
    y,
    width: Math.max(1.5, scale(ms) - LEFT).toFixed(1),
    height: ROW - 5,
    rx: 2,
  });
  return (
    <g>
      <text x={0} y={y + 9}>
        {shortened(stableName(call), 30)}
      </text>
      {waits.map(({ atMs, ms, why }) => (
        <rect class="waited" {...at(atMs, ms)}>
          <title>{`${why} ${spent(ms)}`}</title>
        </rect>
      ))}
      {call.exchanges.map(({ fromMs, ms, status, method, url }) => (
        <rect class={status === undefined || status >= 400 ? 'sent bad' : 'sent'} {...at(fromMs, ms)}>
          <title>{`${method} ${url} ${status ?? 'no response'} ${spent(ms)}`}</title>
        </rect>
      ))}
    </g>
  );
}
