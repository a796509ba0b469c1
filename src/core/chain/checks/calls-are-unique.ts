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
          message: 'A call has a name',
          advice: 'Write one that says what it does: call: arrivals.',
        });
      } else if (seen.has(name)) {
        const message = `Two calls are called "${name}"`;
        reportIn(nameSource, {
          code: 'duplicate-call',
          range: wholeOf(nameSource),
          message,
          advice: 'Give this one a name of its own.',
        });
      }
      seen.add(name);
    },
  };
};
