import { luxon } from '../packages.ts';

/** A window that never holds more than so many sendings, wherever it begins. */
type Window = Readonly<{ count: number; milliseconds: number; text: string }>;

/** So many sendings from one reset to the next. */
export type Quota = Readonly<{ count: number; period: 'day' | 'month'; text: string }>;

/** How fast something may be called: all of it holds at once. */
export type RateLimit = Readonly<{ windows: readonly Window[]; quotas: readonly Quota[] }>;

/** The time of day at which quotas begin anew; those of a month on its first day. */
export type Resets = Readonly<{ hour: number; minute: number; zone: string }>;

/** A part of every rate limit, for machines that share a key but no disk. */
export type Share = Readonly<{ part: number; of: number }>;

export const MIDNIGHT_UTC: Resets = { hour: 0, minute: 0, zone: 'UTC' };

const WINDOWS: Readonly<Record<string, number>> = { s: 1000, min: 60_000, h: 3_600_000 };
const PERIODS = new Set(['day', 'month']);

/** Reads `8/s`, `100/min`, `500/h`, `1000/day` or `20000/month`; nothing when it is none of them. */
export function readRateLimit(text: string): Window | Quota | undefined {
  const [, digits = '', unit = ''] = /^([1-9]\d{0,8})\s*\/\s*(s|min|h|day|month)$/.exec(text.trim()) ?? [];
  if (digits === '') return undefined;
  const count = Number(digits);
  const shown = `${digits}/${unit}`;
  if (PERIODS.has(unit)) return { count, period: unit as Quota['period'], text: shown };
  return { count, milliseconds: WINDOWS[unit]!, text: shown };
}

export function rateLimitOf(parts: readonly (Window | Quota)[]): RateLimit {
  return {
    windows: parts.filter((each): each is Window => 'milliseconds' in each),
    quotas: parts.filter((each): each is Quota => 'period' in each),
  };
}

/** Reads `00:00 UTC` or `06:30 Europe/Lisbon`. Whether there is such a zone is not asked here. */
export function readResets(text: string): Resets | undefined {
  const [, hour = '', minute = '', zone = ''] = /^([01]\d|2[0-3]):([0-5]\d)(?:\s+(\S+))?$/.exec(text.trim()) ?? [];
  return hour === '' ? undefined : { hour: Number(hour), minute: Number(minute), zone: zone === '' ? 'UTC' : zone };
}

/** Counts are rounded down; where less than one would be left, the window is longer instead. */
export function sharedRateLimit({ windows, quotas }: RateLimit, { part, of }: Share): RateLimit {
  const shareOf = (count: number) => Math.floor((count * part) / of);
  return {
    windows: windows.map((each) => {
      const count = shareOf(each.count);
      if (count >= 1) return { ...each, count };
      return { ...each, count: 1, milliseconds: Math.ceil((each.milliseconds * of) / (part * each.count)) };
    }),
    quotas: quotas.map((each) => ({ ...each, count: shareOf(each.count) })),
  };
}

/** The length of a window as it is kept: a little longer, so that the path to the server cannot compress it. */
export function keptLength({ milliseconds }: Window): number {
  return milliseconds + Math.max(20, milliseconds / 100);
}

/** When the period began in which an instant is, and when the next one begins; in milliseconds since 1970. */
export function periodAt(nowMs: number, period: Quota['period'], resets: Resets): Period {
  const known = periods.get(resets)?.[period];
  if (known && nowMs >= known.from && nowMs < known.until) return known;
  const found = periodBy(nowMs, period, resets);
  periods.set(resets, { ...periods.get(resets), [period]: found });
  return found;
}

type Period = Readonly<{ from: number; until: number }>;

/** Every slot asks for the present periods, which are the same nearly always. */
const periods = new WeakMap<Resets, Partial<Record<Quota['period'], Period>>>();

function periodBy(nowMs: number, period: Quota['period'], { hour, minute, zone }: Resets): Period {
  const now = luxon().DateTime.fromMillis(nowMs, { zone });
  const first = period === 'month' ? now.startOf('month') : now.startOf('day');
  const reset = first.set({ hour, minute });
  const step = period === 'month' ? { months: 1 } : { days: 1 };
  const from = reset > now ? reset.minus(step) : reset;
  return { from: from.toMillis(), until: from.plus(step).toMillis() };
}
