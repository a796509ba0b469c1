import { leaf, reportAt } from '../schema/leaf.ts';
import { parseDuration } from '../value/times.ts';

/** How old a recorded response may be: a duration in milliseconds, or the day of the API. */
export const freshFor = () =>
  leaf(
    'a duration such as 10m, or today',
    (scalar, reading): number | 'today' | undefined => {
      const { text } = scalar.source;
      if (text === 'today') return 'today';
      const duration = parseDuration(text);
      if (duration && duration.milliseconds > 0) return duration.milliseconds;
      const advice = 'Write a duration such as 10m or 2h, or today: since the quotas of the API last began anew.';
      reportAt(reading, scalar, 'invalid-duration', `"${text}" is not a duration`, advice);
      return undefined;
    },
    { type: 'string', pattern: '^(today|[0-9]+([.][0-9]+)?(ms|s|m|h|d))$' },
  )
    .optional()
    .describe('A recorded response no older than this is used instead of sending; today: of the present day (resets).');
