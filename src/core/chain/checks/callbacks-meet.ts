import type { ListenStep } from '../model.ts';
import { didYouMean } from '../../diagnostics/suggest.ts';
import type { Rule } from './rule.ts';

/** What is received is listened for, and what is listened for is received. */
export const callbacksMeet: Rule = ({ reportIn }) => {
  const open = new Map<string, ListenStep>();
  const received = new Set<string>();
  return {
    step(step) {
      if (step.kind === 'listen') open.set(step.name, step);
      if (step.kind !== 'receive') return;
      received.add(step.name);
      if (open.has(step.name)) return;
      const message = `No listen step named "${step.name}" precedes this`;
      const advice = didYouMean(step.name, [...open.keys()]) ?? `Open the address first: listen: ${step.name}.`;
      reportIn(step.nameSource, { code: 'no-listener', range: [0, step.name.length], message, advice });
    },
    end() {
      for (const [name, { nameSource }] of open) {
        if (received.has(name)) continue;
        const message = `No step receives callbacks of "${name}"`;
        reportIn(nameSource, {
          code: 'never-received',
          range: [0, name.length],
          message,
          advice: `Add receive: ${name}.`,
        });
      }
    },
  };
};
