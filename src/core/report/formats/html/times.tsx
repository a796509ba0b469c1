import { scaleLog } from 'd3-scale';
import type { VNode } from 'preact';
import { grouped, spent } from '../../../value/show.ts';
import type { Figures, StepFigures } from './figures.ts';

/** Values below which each is a dot; counts from which a percentile means something. */
const FEW = 20;
const FROM_95 = 20;
const FROM_99 = 100;
const WIDTH = 460;
const HEIGHT = 34;
const BINS = 46;

type Scale = (ms: number) => number;

/** How long the last attempts of each call took, without waits: all on one logarithmic axis. */
export function Times({ figures: { steps } }: Readonly<{ figures: Figures }>): VNode | null {
  const shown = steps.filter(({ times }) => times.length > 0);
  if (shown.length === 0) return null;
  const scale = scaleOf(shown);
  return (
    <>
      <h2>Times</h2>
      <p class="quiet">How long the last attempt of each call took, without waiting; one axis for all.</p>
      <div class="wide" tabIndex={0} role="region" aria-label="Times of calls">
        <table class="times">
          <thead>
            <tr>
              <th scope="col">call</th>
              <th scope="col">
                <span class="unseen">distribution</span>
                <Axis scale={scale} />
              </th>
              <th scope="col" class="number">
                median
              </th>
              <th scope="col" class="number">
                95 %
              </th>
              <th scope="col" class="number">
                99 %
              </th>
              <th scope="col" class="number">
                count
              </th>
            </tr>
          </thead>
          <tbody>
            {shown.map((step) => (
              <Row step={step} scale={scale} />
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

/** From a fifth below the shortest to a fifth above the longest; half a millisecond is the least that is told. */
function scaleOf(steps: readonly StepFigures[]): Scale & { ticks(count: number): number[] } {
  let [least, most] = [Infinity, 0];
  for (const { times } of steps)
    for (const ms of times) {
      least = Math.min(least, ms);
      most = Math.max(most, ms);
    }
  const low = Math.max(0.5, least * 0.8);
  return scaleLog()
    .domain([low, Math.max(most * 1.2, low * 4)])
    .range([6, WIDTH - 6]);
}

function Axis({ scale }: Readonly<{ scale: ReturnType<typeof scaleOf> }>): VNode {
  const ticks = scale.ticks(6).filter((ms) => /^[125]0*$/.test(String(ms)) && scale(ms) < WIDTH - 24 && scale(ms) > 20);
  return (
    <svg class="axis" viewBox={`0 0 ${WIDTH} 16`} aria-hidden="true">
      {ticks.map((ms) => (
        <text x={scale(ms)} y={12} text-anchor="middle">
          {spent(ms)}
        </text>
      ))}
    </svg>
  );
}

function Row({ step, scale }: Readonly<{ step: StepFigures; scale: Scale }>): VNode {
  const { name, place, times } = step;
  const sorted = Float64Array.from(times).sort();
  const at = (share: number) => spent(percentile(sorted, share));
  const label = `${name}: ${grouped(times.length)} from ${spent(sorted[0]!)} to ${spent(sorted.at(-1)!)}, median ${at(0.5)}`;
  return (
    <tr>
      <td>
        <span class="quiet">{place}</span> {name}
      </td>
      <td>
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={label}>
          <line class="grid" x1={0} x2={WIDTH} y1={HEIGHT - 3} y2={HEIGHT - 3} />
          {times.length < FEW ? <Dots times={sorted} scale={scale} /> : <Histogram times={sorted} scale={scale} />}
          <line
            class="median"
            x1={scale(percentile(sorted, 0.5))}
            x2={scale(percentile(sorted, 0.5))}
            y1={2}
            y2={HEIGHT - 3}
          />
        </svg>
      </td>
      <td class="number">{at(0.5)}</td>
      <td class="number">{times.length >= FROM_95 ? at(0.95) : ''}</td>
      <td class="number">{times.length >= FROM_99 ? at(0.99) : ''}</td>
      <td class="number">{grouped(times.length)}</td>
    </tr>
  );
}

function Dots({ times, scale }: Readonly<{ times: Float64Array; scale: Scale }>): VNode {
  return (
    <g>
      {[...times].map((ms) => (
        <circle class="dot" cx={scale(Math.max(0.5, ms)).toFixed(1)} cy={HEIGHT / 2} r={4} />
      ))}
    </g>
  );
}

function Histogram({ times, scale }: Readonly<{ times: Float64Array; scale: Scale }>): VNode {
  const counts = new Uint32Array(BINS);
  const wide = (WIDTH - 12) / BINS;
  for (const ms of times) counts[Math.min(BINS - 1, Math.max(0, Math.floor((scale(Math.max(0.5, ms)) - 6) / wide)))]!++;
  const most = Math.max(...counts);
  return (
    <g>
      {[...counts].map((count, i) => {
        // One of very many is seen as well.
        const height = count === 0 ? 0 : Math.max(1.5, (count / most) * (HEIGHT - 6));
        return count === 0 ? null : (
          <rect
            class="bar"
            x={(6 + i * wide).toFixed(1)}
            y={(HEIGHT - 3 - height).toFixed(1)}
            width={(wide - 1).toFixed(1)}
            height={height.toFixed(1)}
          >
            <title>{grouped(count)}</title>
          </rect>
        );
      })}
    </g>
  );
}

/** A percentile between the two nearest values, as the function `percentile` gives it. */
function percentile(sorted: Float64Array, share: number): number {
  const at = (sorted.length - 1) * share;
  const [low, high] = [sorted[Math.floor(at)]!, sorted[Math.ceil(at)]!];
  return low + (high - low) * (at - Math.floor(at));
}
