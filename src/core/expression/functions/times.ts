import { DateTime, numberOf, type Value } from '../../value/value.ts';
import {
  dayOf,
  formatDateTime,
  parseDateTime,
  parseDuration,
  patternFault,
  PATTERN_LETTERS,
  START_UNITS,
  startOf,
  type StartUnit,
} from '../../value/times.ts';
import { zoneProblem } from '../../value/zones.ts';
import type { Host } from '../host.ts';
import { FunctionFault, type FunctionDefinition, type Parameter } from './definition.ts';
import {
  dateTimeValue,
  numberValue,
  optional,
  textOrDateTime,
  textOrDuration,
  textValue,
  zoneName,
} from './parameters.ts';

const patternOf: Parameter = {
  ...textValue('pattern'),
  examine: (value) => {
    const wrong = typeof value === 'string' ? patternFault(value) : undefined;
    return wrong === undefined
      ? undefined
      : { code: 'wrong-argument', message: `"${wrong}" is not a pattern letter`, advice: LETTERS };
  },
};
const LETTERS = `The letters are ${PATTERN_LETTERS}.`;

const unitOf: Parameter = {
  ...textValue('unit'),
  examine: (value) =>
    isUnit(value)
      ? undefined
      : { code: 'wrong-argument', message: 'Unknown unit', advice: `The units are ${START_UNITS.join(', ')}.` },
};

/** Instants, days and lengths of time. Zones are those of the project unless an argument says otherwise. */
export const times: readonly FunctionDefinition[] = [
  {
    name: 'now',
    parameters: [],
    result: 'date-time',
    needsHost: true,
    volatile: true,
    about: "The time at which the step runs, by the run's clock (--now sets it).",
    alias: ['current_time', 'timestamp', 'utcnow'],
    example: ["now() == date_time('2026-05-23T10:00:00Z')", 'true'],
    evaluate: (host: Host) => host.drawn('now', ({ nowMs }) => new DateTime(nowMs)),
  },
  {
    name: 'today',
    parameters: [optional(zoneName())],
    result: 'string',
    needsHost: true,
    volatile: true,
    errors: 'The zone does not exist.',
    about: 'The day on which the step runs, as YYYY-MM-DD.',
    alias: ['current_date', 'date'],
    example: ['today()', "'2026-05-23'"],
    evaluate: (host: Host, zone?: string) => {
      const at = zoneOf(host, zone, 0);
      return host.drawn('today', ({ nowMs }) => dayOf(new DateTime(nowMs), at));
    },
  },
  {
    name: 'date_time',
    parameters: [textOrDateTime(), optional(zoneName())],
    result: 'date-time',
    needsHost: true,
    errors: 'The string is not a date, local time or RFC 3339 date-time; or the zone does not exist.',
    about: 'A date-time from an RFC 3339 string, a local time or a date, which is the start of its day.',
    alias: ['to_date', 'parse_date', 'parse_time', 'datetime', 'strptime'],
    example: ["date_time('2026-05-23T14:00:00+02:00') == date_time('2026-05-23') + 13h", 'true'],
    evaluate: (host: Host, given: string | DateTime, zone?: string) => {
      if (given instanceof DateTime) return given;
      const read = parseDateTime(given, zoneOf(host, zone, 1));
      if (read) return read;
      throw new FunctionFault(`'${given}' is not a date-time`, 'Write it as 2026-05-23 or 2026-05-23T12:00:00Z.');
    },
  },
  {
    name: 'duration',
    parameters: [textOrDuration()],
    result: 'duration',
    errors: 'The string is not a duration, or has years or months, whose lengths vary.',
    about: 'A duration from a string such as 1.5s, or from ISO 8601 without years and months.',
    alias: ['parse_duration', 'to_duration', 'timespan'],
    example: ["duration('PT1H30M') == 90m", 'true'],
    evaluate: (given: Value) => {
      const read = typeof given === 'string' ? parseDuration(given) : given;
      if (read !== undefined) return read;
      throw new FunctionFault(
        `'${given as string}' is not a duration`,
        'Write it as 250ms, 1.5s, 2m, 1h, 3d or PT1H30M.',
      );
    },
  },
  {
    name: 'from_epoch',
    parameters: [numberValue('seconds')],
    result: 'date-time',
    errors: 'The time is beyond the year 275760.',
    about: 'The date-time that is a number of seconds after 1970-01-01T00:00:00Z; divide milliseconds by 1000.',
    alias: ['from_unix', 'from_timestamp', 'fromtimestamp'],
    example: ["from_epoch(1779530400) == date_time('2026-05-23T10:00:00Z')", 'true'],
    evaluate: (seconds: Value) => {
      const milliseconds = Math.round(Number(numberOf(seconds)) * 1000);
      if (Math.abs(milliseconds) <= 8.64e15) return new DateTime(milliseconds);
      throw new FunctionFault(
        'This time is beyond the year 275760',
        'The argument is in seconds; divide milliseconds by 1000.',
      );
    },
  },
  {
    name: 'epoch',
    parameters: [dateTimeValue()],
    result: 'number',
    about: 'The seconds since 1970-01-01T00:00:00Z, with a fraction.',
    alias: ['unix', 'to_epoch', 'to_unix', 'unix_timestamp'],
    example: ["epoch(date_time('2026-05-23T10:00:00Z'))", '1779530400'],
    evaluate: (time: DateTime) => time.epochMilliseconds / 1000,
  },
  {
    name: 'formatted',
    parameters: [dateTimeValue(), patternOf, optional(zoneName())],
    result: 'string',
    needsHost: true,
    errors: 'The pattern has an unknown letter; or the zone does not exist.',
    about: `A date-time formatted by a pattern of Unicode (UTS #35) letters: ${PATTERN_LETTERS}.`,
    alias: ['format', 'strftime', 'format_date', 'date_format'],
    example: ["formatted(date_time('2026-05-23T10:00:00Z'), 'EEEE d MMMM, HH:mm')", "'Saturday 23 May, 11:00'"],
    evaluate: (host: Host, time: DateTime, pattern: string, zone?: string) => {
      const text = formatDateTime(time, pattern, zoneOf(host, zone, 2));
      if (text !== undefined) return text;
      throw new FunctionFault(`"${patternFault(pattern)}" is not a pattern letter`, LETTERS, 1);
    },
  },
  {
    name: 'start_of',
    parameters: [dateTimeValue(), unitOf, optional(zoneName())],
    result: 'date-time',
    needsHost: true,
    errors: 'The unit is not one of minute, hour, day, week, month, year; or the zone does not exist.',
    about: 'The start of the minute, hour, day, week (from Monday), month or year of a date-time.',
    alias: ['startof', 'floor_date', 'date_trunc', 'trunc_date'],
    example: ["start_of(date_time('2026-05-23T10:00:00Z'), 'week') == date_time('2026-05-18')", 'true'],
    evaluate: (host: Host, time: DateTime, unit: string, zone?: string) => {
      if (isUnit(unit)) return startOf(time, unit, zoneOf(host, zone, 2));
      throw new FunctionFault(`Unknown unit '${unit}'`, `The units are ${START_UNITS.join(', ')}.`, 1);
    },
  },
];

function isUnit(value: Value): value is StartUnit {
  return (START_UNITS as readonly Value[]).includes(value);
}

/** The zone that an argument names, or the project's. */
function zoneOf(host: Host, zone: string | undefined, argument: number): string {
  const problem = zone === undefined ? undefined : zoneProblem(zone);
  if (problem) throw new FunctionFault(problem.message, problem.advice, argument);
  return zone ?? host.zone;
}
