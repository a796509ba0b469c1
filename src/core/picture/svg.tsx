import type { VNode } from 'preact';
import { counted } from '../value/show.ts';
import { flowLabel, SIGNS, type Picture, type RowMark, type RunMarks } from './picture.ts';
import { fitted, LINE, svgLayout, type Arc, type Box } from './svg-layout.ts';

/** APIs that have a colour of their own; the label says each of them. */
const HUES = 6;

/** How a picture looks, by itself and in a page: light and dark as the reader's system is. */
export const PICTURE_STYLE = `
.picture { --ink: #1c2730; --quiet: #55636e; --paper: #fbfbf9; --card: #ffffff; --line: #c3ccd2; --flow: #6d7c87; --good: #1d7a46; --bad: #a5322d;
  --a0: #2a6893; --a1: #85590a; --a2: #6a4b92; --a3: #1d6f6a; --a4: #94386d; --a5: #4b691d; font: 12px system-ui, sans-serif; }
@media (prefers-color-scheme: dark) { .picture { --ink: #e4e9ec; --quiet: #a3b0b9; --paper: #14191d; --card: #1b2227; --line: #3d4952; --flow: #90a0ab;
  --good: #5bc689; --bad: #ee938b; --a0: #6fb1e0; --a1: #e2b35a; --a2: #bb9fe4; --a3: #62c4bb; --a4: #e391c0; --a5: #abc97a; } }
@media print { .picture { --paper: #fff; } }
.picture text { fill: var(--ink); font: 12px system-ui, sans-serif; } .picture .quiet { fill: var(--quiet); }
.picture .mono { font-family: ui-monospace, Menlo, Consolas, monospace; font-size: 11px; }
.picture .name { fill: var(--ink); font-weight: 600; font-size: 13px; } .picture .heading { font-size: 17px; font-weight: 600; }
.picture .ground { fill: var(--paper); } .picture .box { fill: var(--card); stroke: var(--line); }
.picture .frame { fill: none; stroke: var(--line); stroke-dasharray: 3 3; }
.picture .flow { fill: none; stroke: var(--flow); stroke-width: 1.2; } .picture .tip { fill: var(--flow); }
.picture .chip { fill: none; stroke: var(--quiet); } .picture .passed { fill: var(--good); } .picture .failed { fill: var(--bad); }
${Array.from({ length: HUES }, (_, i) => `.picture .api${i} { fill: var(--a${i}); }`).join(' ')}
.picture .step:focus-visible .box { stroke: var(--a0); stroke-width: 2.5; } .picture .step { outline: none; }
`;

/** A picture as an SVG document that needs nothing else. */
export function SvgFile({ picture, run }: Readonly<{ picture: Picture; run: RunMarks | undefined }>): VNode {
  return <PictureSvg picture={picture} run={run} style={PICTURE_STYLE} ids="step" />;
}

type Given = Readonly<{
  picture: Picture;
  run: RunMarks | undefined;
  style?: string;
  ids: string;
  focusable?: boolean;
}>;

/** A picture in a page. `ids` begins the ids of its steps. */
export function PictureSvg({ picture, run, style, ids, focusable }: Given): VNode {
  const { boxes, arcs, frames, about, width, height } = svgLayout(picture, run);
  return (
    <svg
      xmlns="http://www.w3.org/2000/svg"
      class="picture"
      viewBox={`0 0 ${Math.round(width)} ${Math.round(height)}`}
      width={Math.round(width)}
      height={Math.round(height)}
      role={focusable ? 'group' : 'img'}
      aria-labelledby={`${ids}-title ${ids}-desc`}
    >
      <title id={`${ids}-title`}>{`The chain ${picture.name} and how its data flows`}</title>
      <desc id={`${ids}-desc`}>{inWords(picture)}</desc>
      {style === undefined ? null : <style dangerouslySetInnerHTML={{ __html: style }} />}
      <rect class="ground" width="100%" height="100%" />
      <text class="heading" x={20} y={30}>
        {picture.name}
      </text>
      {about.map((line, i) => (
        <text class="quiet" x={20} y={49 + i * 16}>
          {line}
        </text>
      ))}
      {frames.map((frame) => (
        <rect class="frame" rx={8} {...frame} />
      ))}
      {arcs.map((arc) => (
        <Flow arc={arc} ids={ids} />
      ))}
      {boxes.map((box) => (
        <Step box={box} picture={picture} run={run} ids={ids} focusable={focusable} />
      ))}
    </svg>
  );
}

function Flow({ arc, ids }: Readonly<{ arc: Arc; ids: string }>): VNode {
  const { path, label, labelX, labelY, from, to, names } = arc;
  return (
    <g class={`arc ${ids}-of-${from} ${ids}-of-${to}`}>
      <title>{names.join(', ')}</title>
      <path class="flow" d={path} />
      <path class="tip" d={`M${labelX - 12} ${labelY + 3}l8 -4v8z`} />
      <text class="mono" x={labelX} y={labelY}>
        {label}
      </text>
    </g>
  );
}

type StepProps = Readonly<{
  box: Box;
  picture: Picture;
  run: RunMarks | undefined;
  ids: string;
  focusable?: boolean | undefined;
}>;

function Step({ box, picture, run, ids, focusable }: StepProps): VNode {
  const { row, index, x, y, width, height } = box;
  const line = (number: number) => ({ x: x + 12, y: y + 17 + number * LINE });
  if (row.sort === 'heading')
    return (
      <text class="quiet" x={x} y={y + 17}>
        {row.title}
      </text>
    );
  const mark = markOf(row, run);
  const hasChips = row.chips.length > 0;
  const afterLines = row.lines.length + 1;
  const focus = focusable ? { tabindex: 0, role: 'img' as const } : {};
  return (
    <g class="step" id={`${ids}-${index}`} {...focus} aria-label={stepInWords(box, picture, run)}>
      <rect class="box" x={x} y={y} width={width} height={height} rx={6} />
      <Title box={box} picture={picture} />
      {row.lines.map((text, i) => (
        <text class="quiet mono" {...line(i + 1)}>
          {fitted(text, width - 26)}
        </text>
      ))}
      {hasChips ? <Chips names={row.chips} {...line(afterLines)} /> : null}
      {mark ? <Mark mark={mark} room={width - 40} {...line(afterLines + (hasChips ? 1 : 0))} /> : null}
    </g>
  );
}

/** The first line of a step: its number, kind and title, and its API by label and colour. */
function Title({ box: { row, x, y, width, height }, picture }: Readonly<{ box: Box; picture: Picture }>): VNode {
  const { number, title, api = '' } = row;
  const kind = row.kind === '' || row.kind === 'call' ? '' : `${row.kind} `;
  const hue = picture.apis.indexOf(api);
  const color = hue >= 0 && hue < HUES ? `api${hue}` : 'quiet';
  // Bold letters are wider than others.
  const room = (width - 40 - (number.length + kind.length + api.length) * 7) * 0.78;
  return (
    <>
      {api === '' ? null : <rect class={color} x={x} y={y + 3} width={4} height={height - 6} rx={2} />}
      <text class="quiet" x={x + 12} y={y + 17}>
        {number === '' ? '' : `${number}  `}
        {kind}
        <tspan class="name">{fitted(title, room)}</tspan>
      </text>
      {api === '' ? null : (
        <text class={color} x={x + width - 10} y={y + 17} text-anchor="end">
          {api}
        </text>
      )}
    </>
  );
}

function markOf({ sort, number }: Box['row'], run: RunMarks | undefined): RowMark | undefined {
  return sort === 'step' ? run?.marks.get(number) : undefined;
}

function Mark({
  mark: { outcome, text },
  room,
  x,
  y,
}: Readonly<{ mark: RowMark; room: number; x: number; y: number }>): VNode {
  return (
    <text class={outcome === 'passed' || outcome === 'failed' ? outcome : 'quiet'} x={x} y={y}>
      {`${SIGNS[outcome]} ${fitted(text, room)}`}
    </text>
  );
}

/** Names that many rows read, each in a rounded border. */
function Chips({ names, x, y }: Readonly<{ names: readonly string[]; x: number; y: number }>): VNode {
  let left = x;
  return (
    <g>
      {names.slice(0, 5).map((name) => {
        const text = fitted(name, 120);
        const width = text.length * 6.7 + 14;
        const at = left;
        left += width + 6;
        return (
          <>
            <rect class="chip" x={at} y={y - 11} width={width} height={15} rx={7} />
            <text class="mono" x={at + 7} y={y}>
              {text}
            </text>
          </>
        );
      })}
    </g>
  );
}

/** The whole picture in sentences, for who hears it. */
function inWords({ rows, flows }: Picture): string {
  const steps = rows.filter(({ sort }) => sort === 'step').length;
  const parts = flows.map(
    ({ from, to, names }) => `${nameOf(rows[to]!)} takes ${names.join(', ')} of ${nameOf(rows[from]!)}`,
  );
  return `${counted(steps, 'step')}. ${parts.join('; ')}`;
}

function stepInWords({ row, index }: Box, { flows, rows }: Picture, run: RunMarks | undefined): string {
  const takes = flows
    .filter(({ to }) => to === index)
    .map(({ from, names }) => `takes ${flowLabel(names)} of ${nameOf(rows[from]!)}`);
  const mark = run?.marks.get(row.number);
  return [nameOf(row), row.api ?? '', ...row.lines, ...takes, mark?.text ?? '']
    .filter((part) => part !== '')
    .join('. ');
}

function nameOf({ number, kind, title }: Picture['rows'][number]): string {
  return [number === '' ? '' : `step ${number}`, kind, title].filter((part) => part !== '').join(' ');
}
