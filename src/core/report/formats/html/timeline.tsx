import { scaleLinear } from 'd3-scale';
import type { VNode } from 'preact';
import { counted, grouped, spent } from '../../../value/show.ts';
import { stableName, type CallSummary } from '../../call-summary.ts';
import type { RunSummary } from '../../run-summary.ts';
import type { Figures, StepFigures } from './figures.ts';
import { shortened } from './parts.tsx';

/** The measures of a row and of a band in the picture. */
const ROW = 15;
const BAND = 30;
const TOP = 20;
const LEFT = 190;
const WIDTH = 1080;

type Waits = RunSummary['waits'];
type Scale = (ms: number) => number;

/** What was sent when: a row for each call, or of many calls a band for each step in which requests are counted. */
export function Timeline({ run, figures }: Readonly<{ run: RunSummary; figures: Figures }>): VNode | null {
  const { steps, rows } = figures;
  if (steps.length === 0) return null;
  const { from, until } = rows ? extentOf(rows, run.waits) : { from: figures.fromMs, until: figures.untilMs };
  const scale = scaleLinear()
    .domain([0, until - from])
    .range([LEFT, WIDTH - 10]);
  const height = TOP + (rows ? rows.length * ROW : steps.length * BAND) + 6;
  const requests = steps.reduce((sum, each) => sum + each.requests, 0);
  const label = `${counted(requests, 'request')} in ${spent(until - from)}`;
  return (
    <>
      <h2>Timeline</h2>
      <p class="legend quiet">
        <span class="key-sent" />
        {rows ? 'sending and receiving' : 'requests sent'}
        <span class="key-bad" />
        an error, or no response
        {rows ? <span class="key-wait" /> : null}
        {rows ? 'waiting' : null}
      </p>
      <div class="wide" tabIndex={0} role="region" aria-label="Timeline">
        <svg class="timeline" viewBox={`0 0 ${WIDTH} ${height}`} role="img" aria-label={label}>
          {scale.ticks(8).map((tick) => (
            <g>
              <line class="grid" x1={scale(tick)} x2={scale(tick)} y1={16} y2={height} />
              {scale(tick) > WIDTH - 50 ? null : (
                <text x={scale(tick) + 2} y={10}>
                  {tick === 0 ? '0' : spent(tick)}
                </text>
              )}
            </g>
          ))}
          {rows
            ? rows.map((call, i) => (
                <Row
                  call={call}
                  waits={run.waits.filter(({ step }) => step === call.address)}
                  y={i * ROW + TOP}
                  {...{ from, scale }}
                />
              ))
            : steps.map((step, i) => <Band step={step} y={i * BAND + TOP} />)}
        </svg>
      </div>
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

type RowProps = Readonly<{ call: CallSummary; waits: Waits; y: number; from: number; scale: Scale }>;

function Row({ call, waits, y, from, scale }: RowProps): VNode {
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

/** The requests of a step over time, in stretches: how many, and how many of them without a good response. */
function Band({ step: { name, place, sent, bad, requests }, y }: Readonly<{ step: StepFigures; y: number }>): VNode {
  const most = Math.max(...sent);
  const wide = (WIDTH - 10 - LEFT) / sent.length;
  const room = BAND - 8;
  const bars = (counts: Uint32Array) => {
    let path = '';
    counts.forEach((count, i) => {
      if (count === 0) return;
      const height = Math.max(1.5, (count / most) * room);
      path += `M${(LEFT + i * wide).toFixed(1)} ${y + room}v${(-height).toFixed(1)}h${(wide * 0.9).toFixed(1)}v${height.toFixed(1)}z`;
    });
    return path;
  };
  return (
    <g>
      <title>{`${name}: ${counted(requests, 'request')}, at most ${grouped(most)} in a stretch`}</title>
      <text x={0} y={y + room - 8}>
        {shortened(`${place} ${name}`, 26)}
      </text>
      <text x={0} y={y + room + 3}>
        {counted(requests, 'request')}
      </text>
      <path class="sent" d={bars(sent)} />
      <path class="sent bad" d={bars(bad)} />
    </g>
  );
}
