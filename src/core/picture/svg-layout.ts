import { cutAt } from '../value/show.ts';
import { flowLabel, type Picture, type PictureRow, type RunMarks } from './picture.ts';
import { routesOf, type Route, type Routes } from './tracks.ts';

/** Measures in pixels. */
export const LINE = 17;
/** Between flows that arrive, which have names, and between those that leave. */
const ENTRY = 16;
const EXIT = 8;
const PAD = 9;
const GAP = 12;
const INDENT = 18;
const LEFT = 20;
const TOP = 44;
const ABOUT = 16;
const CLOSING = 6;
const TRACK = 12;
const LETTER = 6.4;
/** The narrowest and widest column of steps. */
const NARROW = 320;
const WIDE = 500;

/** A row in its place: a box with lines of text. */
export type Box = Readonly<{ row: PictureRow; index: number; x: number; y: number; width: number; height: number }>;
/** A flow in its place: from the right edge of a box along a track to that of another. */
export type Arc = Route & Readonly<{ path: string; labelX: number; labelY: number; label: string }>;

type SvgLayout = Readonly<{
  boxes: readonly Box[];
  arcs: readonly Arc[];
  /** Rectangles around loops and branches. */
  frames: readonly Readonly<{ x: number; y: number; width: number; height: number }>[];
  /** What the chain is for, or what the run came to, in lines. */
  about: readonly string[];
  width: number;
  height: number;
}>;

/** Puts a picture in place: one column of boxes, and tracks at its right. */
export function svgLayout(picture: Picture, run?: RunMarks): SvgLayout {
  const ways = routesOf(picture);
  const column = columnOf(picture, run);
  const right = LEFT + column;
  const labels = Math.max(0, ...ways.routes.map(({ names }) => flowLabel(names).length * LETTER + 22));
  const width = right + labels + ways.tracks * TRACK + 16;
  const about = wrapped(run?.heading ?? picture.about ?? '', width - 2 * LEFT, 2);
  const boxes = boxesOf(picture, ways, column, TOP + about.length * ABOUT, run);
  const arcs = ways.routes.map((route) => arcOf(route, ways, boxes, right, right + labels));
  const frames = picture.frames.map(({ first, last, depth }) => {
    const x = LEFT + depth * INDENT - 6;
    const [top, bottom] = [boxes[first]!, boxes[last]!];
    // Of frames that end together the outer ones end further down.
    const inner = picture.frames.filter((each) => each.last === last && each.depth > depth).length;
    return { x, y: top.y - 6, width: right - x + 6, height: bottom.y + bottom.height - top.y + 12 + inner * CLOSING };
  });
  const end = boxes.at(-1);
  return { boxes, arcs, frames, about, width, height: (end ? end.y + end.height : TOP) + 24 };
}

/** Wide enough for most lines; longer ones are cut. */
function columnOf({ rows }: Picture, run: RunMarks | undefined): number {
  const widths = rows.flatMap(({ depth, title, number, api = '', kind, lines }) => [
    (title.length + number.length + api.length + kind.length + 6) * LETTER + depth * INDENT + 40,
    ...[...lines, `✗ ${run?.marks.get(number)?.text ?? ''}`].map((line) => line.length * LETTER + depth * INDENT + 40),
  ]);
  return Math.round(Math.min(WIDE, Math.max(NARROW, ...widths)));
}

function boxesOf(
  { rows, frames }: Picture,
  { places }: Routes,
  column: number,
  top: number,
  run: RunMarks | undefined,
): readonly Box[] {
  let y = top;
  return rows.map((row, index) => {
    const own = textLines(row, run).length;
    const { entries, exits } = places[index]!;
    const height = Math.max(own * LINE, entries * ENTRY + exits * EXIT) + PAD;
    const x = LEFT + row.depth * INDENT;
    const box = { row, index, x, y, width: column - row.depth * INDENT, height };
    const closing = frames.filter(({ last }) => last === index).length;
    y += height + GAP + closing * CLOSING;
    return box;
  });
}

/** The lines of a box below its title line, and that of the run. */
function textLines(row: PictureRow, run?: RunMarks): readonly string[] {
  const chips = row.chips.length > 0 ? [''] : [];
  const mark = run?.marks.has(row.number) && row.sort === 'step' ? [''] : [];
  return [row.title, ...row.lines, ...chips, ...mark];
}

function arcOf(route: Route, { places }: Routes, boxes: readonly Box[], right: number, inner: number): Arc {
  const top = (index: number) => boxes[index]!.y + PAD / 2;
  const from = top(route.from) + places[route.from]!.entries * ENTRY + route.exit * EXIT + EXIT / 2;
  const to = top(route.to) + route.entry * ENTRY + ENTRY / 2;
  const track = inner + 6 + route.track * TRACK;
  const turn = to > from ? 5 : -5;
  const path = `M${right} ${from}H${track - 5}Q${track} ${from} ${track} ${from + turn}V${to - turn}Q${track} ${to} ${track - 5} ${to}H${right + 7}`;
  return { ...route, path, label: flowLabel(route.names), labelX: right + 12, labelY: to - 3 };
}

/** A text in lines of at most so many pixels; what is left of a long one is cut. */
function wrapped(text: string, pixels: number, most: number): readonly string[] {
  const lines: string[] = [];
  let line = '';
  for (const word of text.split(' ')) {
    if (line !== '' && (line.length + word.length + 1) * LETTER > pixels) {
      lines.push(line);
      line = word;
    } else line = line === '' ? word : `${line} ${word}`;
  }
  lines.push(line);
  return lines.length <= most ? lines : [...lines.slice(0, most - 1), fitted(lines.slice(most - 1).join(' '), pixels)];
}

/** A text of at most so many pixels. */
export function fitted(text: string, pixels: number): string {
  return cutAt(text, Math.max(4, Math.floor(pixels / LETTER)));
}
