import { flowLabel, SIGNS, type Picture, type PictureRow, type RowMark, type RunMarks } from './picture.ts';
import { cutAt } from '../value/show.ts';
import { visible } from '../value/visible.ts';
import { routesOf, type Route } from './tracks.ts';

/** How the parts of a line are shown; without colours each is the text itself. */
export type BoxPalette = Readonly<Record<'title' | 'quiet' | 'passed' | 'failed' | 'api', (text: string) => string>>;

type Styled = Readonly<{ text: string; style?: keyof BoxPalette }>;
type Line = Readonly<{ row: number; parts: readonly Styled[] }>;

/** Columns that names of flows may take, and the narrowest column of steps. */
const LABELS = 30;
const NARROWEST = 34;
const MOST = 66;

/** A chain in box characters: steps at the left, the values that they take of each other in tracks at the right. */
export function boxPicture(given: Picture, columns: number, palette: BoxPalette, run?: RunMarks): string {
  const picture = shown(given);
  const { routes, tracks, places } = routesOf(picture);
  const labels = Math.min(LABELS, Math.max(0, ...routes.map(({ names }) => flowLabel(names).length)));
  const widest = Math.max(...picture.rows.flatMap((row, i) => linesOf(row, MOST, picture, i, run).map(lengthOf)));
  const width = Math.max(NARROWEST, Math.min(widest, columns - labels - 2 * tracks - 6));
  const lines: Line[] = [];
  const starts: number[] = [];
  picture.rows.forEach((row, i) => {
    starts.push(lines.length);
    const own = linesOf(row, width, picture, i, run);
    const { entries, exits } = places[i]!;
    const height = Math.max(own.length, entries + (exits > 0 ? 1 : 0));
    for (let at = 0; at < height; at++) lines.push({ row: i, parts: own[at] ?? [bars(picture, i, false)] });
    lines.push({ row: i, parts: [bars(picture, i, true)] });
  });
  const canvas = new Canvas(lines.length, labels, tracks);
  for (const route of routes)
    canvas.draw(route, starts[route.from]! + places[route.from]!.entries, starts[route.to]! + route.entry);
  const heading = run ? `${palette.quiet(run.heading)}\n` : '';
  const drawn = lines.map(({ parts }, i) => {
    const left = parts.map(({ text, style }) => (style && text !== '' ? palette[style](text) : text)).join('');
    const right = canvas.line(i);
    if (right === '') return left.trimEnd();
    return `${left}${' '.repeat(Math.max(0, width - lengthOf(parts)))} ${palette.quiet(right)}`;
  });
  return `${palette.title(picture.name)}${picture.about ? `   ${palette.quiet(picture.about)}` : ''}\n${heading}\n${drawn.slice(0, -1).join('\n')}`;
}

function lengthOf(parts: readonly Styled[]): number {
  return parts.reduce((sum, { text }) => sum + [...text].length, 0);
}

/** A picture with nothing in its texts that a terminal would act on. */
function shown(picture: Picture): Picture {
  const { name, about, rows, flows } = picture;
  const all = (texts: readonly string[]) => texts.map(visible);
  return {
    ...picture,
    name: visible(name),
    about: about && visible(about),
    rows: rows.map((row) => ({ ...row, title: visible(row.title), lines: all(row.lines), chips: all(row.chips) })),
    flows: flows.map((flow) => ({ ...flow, names: all(flow.names) })),
  };
}

/** What a row says, a line each, behind the bars of its frames. */
function linesOf(
  row: PictureRow,
  width: number,
  picture: Picture,
  index: number,
  run?: RunMarks,
): readonly (readonly Styled[])[] {
  const before = bars(picture, index, false);
  const room = width - before.text.length;
  const mark = row.sort === 'step' ? run?.marks.get(row.number) : undefined;
  const number = row.number === '' ? '' : `${row.number}  `;
  const kind = row.kind === '' || row.kind === 'call' ? '' : `${row.kind} `;
  const api = row.api === undefined ? '' : `  ${row.api}`;
  const title = cutAt(`${kind}${row.title}`, room - number.length - api.length);
  const chips = row.chips.length > 0 ? [`reads ${row.chips.join(', ')}`] : [];
  const indent = ' '.repeat(number.length);
  const head: readonly Styled[] = [
    before,
    { text: number, style: 'quiet' },
    { text: title, style: row.sort === 'heading' ? 'quiet' : 'title' },
    { text: api, style: 'api' },
  ];
  const rest = [...row.lines, ...chips].map((text): readonly Styled[] => [
    before,
    { text: cutAt(`${indent}${text}`, room), style: 'quiet' },
  ]);
  const ofRun = mark ? [[before, markOf(mark, indent, room)] as const] : [];
  return [head, ...rest, ...ofRun];
}

function markOf({ outcome, text }: RowMark, indent: string, room: number): Styled {
  const style = outcome === 'failed' || outcome === 'passed' ? outcome : 'quiet';
  return { text: cutAt(`${indent}${SIGNS[outcome]} ${text}`, room), style };
}

/** A bar for each frame that a row is in; below a row those that go on. */
function bars({ rows, frames }: Picture, index: number, isBelow: boolean): Styled {
  const around = frames.filter(({ first, last }) =>
    isBelow ? first <= index && last > index : first < index && last >= index,
  );
  const depth = isBelow ? around.length : rows[index]!.depth;
  return { text: '│ '.repeat(around.length) + '  '.repeat(Math.max(0, depth - around.length)), style: 'quiet' };
}

/** Strokes that meet in a character, as bits: to the left, to the right, up and down. */
const [WEST, EAST, NORTH, SOUTH] = [1, 2, 4, 8];
const STROKES: Readonly<Record<number, string>> = {
  0: ' ',
  1: '─',
  2: '─',
  3: '─',
  4: '│',
  5: '╯',
  6: '╰',
  7: '┴',
  8: '│',
  9: '╮',
  10: '╭',
  11: '┬',
  12: '│',
  13: '┤',
  14: '├',
  15: '┼',
};

/** The lines at the right of the steps: strokes, and names over them. */
class Canvas {
  private readonly strokes: number[][];
  private readonly names = new Map<number, string>();

  constructor(
    height: number,
    private readonly labels: number,
    tracks: number,
  ) {
    this.strokes = Array.from({ length: height }, () => new Array<number>(labels + 2 * tracks + 4).fill(0));
  }

  /** Flows that leave a row share its line, and part at their tracks. */
  draw({ names, track }: Route, begin: number, end: number): void {
    const column = this.labels + 4 + 2 * track;
    for (const y of [begin, end]) for (let x = 0; x < column; x++) this.strokes[y]![x]! |= WEST | EAST;
    const [top, bottom] = [Math.min(begin, end), Math.max(begin, end)];
    this.strokes[top]![column]! |= WEST | SOUTH;
    for (let y = top + 1; y < bottom; y++) this.strokes[y]![column]! |= NORTH | SOUTH;
    this.strokes[bottom]![column]! |= WEST | NORTH;
    this.names.set(end, `◂ ${flowLabel(names)} `.slice(0, this.labels + 3));
  }

  line(y: number): string {
    const name = this.names.get(y) ?? '';
    const strokes = this.strokes[y]!.map((each) => STROKES[each]).join('');
    return (name + strokes.slice([...name].length)).trimEnd();
  }
}
