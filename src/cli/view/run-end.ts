import type { EventOf } from '../../core/journal/events.ts';
import { counted } from '../../core/value/show.ts';
import { visible } from '../../core/value/visible.ts';
import { pausedWords } from './outcome-words.ts';
import type { Palette } from './palette.ts';
import { cut, sized, wrapped } from './text.ts';
import { goOnWords } from './waits.ts';

/** What is known of a run at its end, beside its failures. */
type RunEnd = Readonly<{
  files: readonly EventOf<'file'>[];
  /** Calls that needed several attempts, a line each. */
  retried: readonly string[];
  summary: string;
  /** Calls that failed before it went on, and were not sent anew. */
  notTriedAgain: number;
  run: string;
}>;

type Room = Readonly<{ palette: Palette; columns: number; quiet: boolean }>;

/** What is written when a run ends, below its failures. */
export function endTexts(ended: EventOf<'finished' | 'paused'>, told: RunEnd, room: Room): readonly string[] {
  const { quiet, columns, palette } = room;
  const outcome = ended.exit === 0 ? palette.good('passed') : palette.bad('failed');
  const word = ended.type === 'finished' ? outcome : pausedWords(ended, outcome, palette);
  const last = wrapped(`${word}   ${told.summary}`, columns).join('\n   ');
  return [
    ...(quiet ? [] : [...fileLines(told.files, palette), ...retryLines(told.retried, room)]),
    ...(quiet && ended.exit === 0 ? [] : [`\n${last}\n`]),
    ...(ended.type === 'finished' ? againLines(ended, told) : pauseLines(ended, told, quiet)),
  ];
}

function fileLines(files: readonly EventOf<'file'>[], { quiet }: Palette): readonly string[] {
  if (files.length === 0) return [];
  const lines = files.map(({ path, op, after, rows }) => {
    const count = rows === undefined ? '' : `${counted(rows, 'row')}   `;
    return `${op}   ${path}   ${count}${quiet(sized(after.size))}\n`;
  });
  return ['\n', ...lines];
}

function retryLines(retried: readonly string[], { palette, columns }: Room): readonly string[] {
  if (retried.length === 0) return [];
  return ['\n', ...retried.map((line) => `${palette.warning(cut(visible(line), columns))}\n`)];
}

function againLines({ exit }: EventOf<'finished'>, { notTriedAgain, run }: RunEnd): readonly string[] {
  if (exit === 0 || notTriedAgain === 0) return [];
  const again = `batharon resume ${run} --failed`;
  return [`${counted(notTriedAgain, 'failed call')} not tried again; to retry: ${again}\n`];
}

function pauseLines(ended: EventOf<'paused'>, { run }: RunEnd, quiet: boolean): readonly string[] {
  const { why, detail } = ended;
  if (why === 'only' || why === 'watch') return [];
  // Notes are not shown then, and this one says what is wrong.
  const said = quiet && detail !== undefined && why !== 'to' ? [`${visible(detail)}\n`] : [];
  return [...said, `${goOnWords(ended, run)}\n`];
}
