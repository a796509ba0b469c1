import type * as Luxon from 'luxon';
import { luxon } from '../packages.ts';
import { MILLISECONDS } from './json-write.ts';
import { DateTime, Duration } from './value.ts';

const DATE = /^\d{4}-\d\d-\d\d$/;
const LOCAL = /^\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d+)?)?$/;
/** RFC 3339 section 5.6, with the blank that it allows between date and time. */
const INSTANT = /^\d{4}-\d\d-\d\d[Tt ]\d\d:\d\d:\d\d(\.\d+)?([Zz]|[+-]\d\d:\d\d)$/;

/**
 * A date (midnight in `zone`), a local time (in `zone`), or an RFC 3339 instant. A local time that does not exist is
 * moved forward by the gap, one that exists twice is the earlier. `undefined` when it is none of these.
 */
export function parseDateTime(text: string, zone: string): DateTime | undefined {
  if (INSTANT.test(text)) {
    if (!isDate(text.slice(0, 10))) return undefined;
    const read = luxon().DateTime.fromISO(text.replace(' ', 'T').toUpperCase(), { setZone: true });
    return read.isValid ? new DateTime(read.toMillis()) : undefined;
  }
  if (!DATE.test(text) && !LOCAL.test(text)) return undefined;
  const read = luxon().DateTime.fromISO(text, { zone });
  if (!read.isValid) return undefined;
  return new DateTime(Math.min(...read.getPossibleOffsets().map((each) => each.toMillis())));
}

/** `YYYY-MM-DD` of a day that there is. */
export function isDate(text: string): boolean {
  if (!DATE.test(text)) return false;
  const date = new Date(`${text}T00:00:00Z`);
  return !Number.isNaN(date.getTime()) && date.toISOString().startsWith(text);
}

/** The day of an instant in a zone, as `YYYY-MM-DD`. */
export function dayOf({ epochMilliseconds }: DateTime, zone: string): string {
  if (zone === 'UTC') return new Date(epochMilliseconds).toISOString().slice(0, 10);
  return luxon().DateTime.fromMillis(epochMilliseconds, { zone }).toISODate()!;
}

/** `1.5s`, `250ms`, or an ISO 8601 duration without years and months, whose lengths vary. */
export function parseDuration(text: string): Duration | undefined {
  const measure = /^(\d+(?:\.\d+)?)(ms|s|m|h|d)$/.exec(text);
  if (measure) return new Duration(Math.round(Number(measure[1]) * MILLISECONDS[measure[2]!]! * 1000) / 1000);
  if (!/^[+-]?P(?=.)(\d+W)?(\d+D)?(T(?=.)(\d+(\.\d+)?H)?(\d+(\.\d+)?M)?(\d+([.,]\d+)?S)?)?$/.test(text))
    return undefined;
  const read = luxon().Duration.fromISO(text);
  return read.isValid ? new Duration(read.toMillis()) : undefined;
}

export const START_UNITS = ['minute', 'hour', 'day', 'week', 'month', 'year'] as const;
export type StartUnit = (typeof START_UNITS)[number];

/** The beginning of the minute, hour, day, week (from Monday), month or year in which an instant is, in a zone. */
export function startOf({ epochMilliseconds }: DateTime, unit: StartUnit, zone: string): DateTime {
  return new DateTime(luxon().DateTime.fromMillis(epochMilliseconds, { zone }).startOf(unit).toMillis());
}

/** Letters of UTS #35 (Unicode dates), each with the forms by how often it is written. */
const LETTERS: Readonly<Record<string, readonly (string | undefined)[]>> = {
  y: ['y', 'yy', undefined, 'yyyy'],
  Q: ['q'],
  M: ['L', 'LL', 'LLL', 'LLLL'],
  w: ['W', 'WW'],
  Y: ['kkkk', 'kk', undefined, 'kkkk'],
  d: ['d', 'dd'],
  D: ['o', undefined, 'ooo'],
  E: ['ccc', 'ccc', 'ccc', 'cccc'],
  a: ['a'],
  H: ['H', 'HH'],
  h: ['h', 'hh'],
  m: ['m', 'mm'],
  s: ['s', 'ss'],
};

export const PATTERN_LETTERS =
  'y yy yyyy year, Q quarter, M MM MMM MMMM month, w ww week and Y YYYY its year, d dd day, D DDD day of the year, E EEEE weekday, a AM or PM, H HH h hh hour, m mm minute, s ss second, S SS SSS fraction, X XX XXX x xx xxx offset, VV zone; other letters in single quotes';

/** The first part of a pattern that is no letter of ours, if there is one. */
export function patternFault(pattern: string): string | undefined {
  for (const [run] of lettersOf(pattern)) if (formOf(run) === undefined) return run;
  return undefined;
}

/** Runs of one letter outside of quotes, quoted texts, and what stands between, in order. */
function lettersOf(pattern: string): RegExpStringIterator<RegExpExecArray> {
  return pattern.matchAll(/'(?:[^']|'')*'|([A-Za-z])\1*|[^A-Za-z']+|'/g);
}

type Form = (time: Luxon.DateTime) => string;

function formOf(run: string): Form | undefined {
  const [letter] = run;
  if (letter === "'") {
    if (run === "'") return undefined;
    const literal = run === "''" ? "'" : run.slice(1, -1).replaceAll("''", "'");
    return () => literal;
  }
  if (!/[A-Za-z]/.test(letter!)) return () => run;
  if (letter === 'S')
    return (time) => String(time.millisecond).padStart(3, '0').padEnd(run.length, '0').slice(0, run.length);
  if (letter === 'X' || letter === 'x') return run.length <= 3 ? (time) => offsetText(time.offset, run) : undefined;
  if (run === 'VV') return (time) => time.zoneName ?? '';
  const token = LETTERS[letter!]?.[run.length - 1];
  return token === undefined ? undefined : (time) => time.setLocale('en').toFormat(token);
}

/** `+01`, `+0100`, `+01:00`; `Z` for none with the capital letter. */
function offsetText(minutes: number, run: string): string {
  if (minutes === 0 && run[0] === 'X') return 'Z';
  const size = Math.abs(minutes);
  const hours = String(Math.floor(size / 60)).padStart(2, '0');
  const rest = String(size % 60).padStart(2, '0');
  const sign = minutes < 0 ? '-' : '+';
  if (run.length === 1) return `${sign}${hours}${rest === '00' ? '' : rest}`;
  return `${sign}${hours}${run.length === 3 ? ':' : ''}${rest}`;
}

/** An instant written by a pattern of UTS #35 letters, in a zone; `undefined` when the pattern has another letter. */
export function formatDateTime({ epochMilliseconds }: DateTime, pattern: string, zone: string): string | undefined {
  const time = luxon().DateTime.fromMillis(epochMilliseconds, { zone });
  let text = '';
  for (const [run] of lettersOf(pattern)) {
    const form = formOf(run);
    if (!form) return undefined;
    text += form(time);
  }
  return text;
}
