import type { Range } from '../../diagnostics/problem.ts';
import type { SourceFile } from '../../diagnostics/source.ts';
import { eachNode } from '../walk.ts';
import type { Rule } from './rule.ts';

/** What is kept is used somewhere: in a later step, or in what the chain gives. */
export const namesAreUsed: Rule = ({ reportAt }) => {
  const kept = new Map<string, Readonly<{ range: Range; file: SourceFile }>>();
  const read = new Set<string>();
  return {
    binding({ name, range, file, what }) {
      // What is carried is looked after by another rule, until a step of the rounds keeps it.
      if (what === 'carry') return;
      // An address is used by being listened at, which another rule looks after.
      if (what !== 'input' && what !== 'item') kept.set(name, { range, file });
    },
    step(step) {
      if (step.kind === 'receive') read.add(step.name);
    },
    expression(tree) {
      eachNode(tree, (node) => {
        if (node.kind === 'path' && node.start.kind === 'name') read.add(node.start.name);
      });
    },
    end() {
      for (const [name, { range, file }] of kept) {
        if (read.has(name)) continue;
        const advice = 'Use it, list it under outputs, or remove it.';
        reportAt(file, { code: 'never-used', range, message: `"${name}" is kept but never used`, advice });
      }
    },
  };
};
