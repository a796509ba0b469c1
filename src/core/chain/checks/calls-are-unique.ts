import { wholeOf } from '../../diagnostics/source.ts';
import type { Rule } from './rule.ts';

/** Two calls of a file have two names: reports, resuming and `look` know them by it. */
export const callsAreUnique: Rule = ({ reportIn }) => {
  const seen = new Set<string>();
  return {
    call({ name, nameSource }) {
      if (name.trim() === '') {
        reportIn(nameSource, {
          code: 'key-missing',
          range: [0, 1],
          message: 'A call needs a name',
          advice: 'Name what it does, for example call: arrivals.',
        });
      } else if (seen.has(name)) {
        const message = `Two calls are named "${name}"`;
        reportIn(nameSource, {
          code: 'duplicate-call',
          range: wholeOf(nameSource),
          message,
          advice: 'Rename this one.',
        });
      }
      seen.add(name);
    },
  };
};
