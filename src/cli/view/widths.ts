import type { Chain, Step } from '../../core/chain/model.ts';
import type { Part } from '../../core/chain/parts.ts';
import { callsOf, partsOf } from '../../core/chain/steps/inside.ts';

/** Columns for the names and numbers of a chain's steps. */
export type Widths = Readonly<{ nameWidth: number; numberWidth: number }>;

const NAMES = { least: 12, most: 24 };
const NUMBERS = { least: 5, most: 16 };

/** As wide as the longest of the chain, within reason; loops are taken to have up to 99 items until more are known. */
export function widthsOf(chain: Chain): Widths {
  const names = callsOf(chain).map(({ name }) => name.length);
  const number = Math.max(longestNumber(chain.steps, 0), longestNumber(chain.cleanup, 1));
  return {
    nameWidth: Math.min(NAMES.most, Math.max(NAMES.least, ...names)),
    numberWidth: Math.min(NUMBERS.most, Math.max(NUMBERS.least, number)),
  };
}

/** Characters of the longest number of some steps; `before` is what stands in front of theirs: `2#14.`. */
function longestNumber(steps: readonly Step[], before: number): number {
  return Math.max(
    0,
    ...steps.map((step, i) => {
      const own = before + String(i + 1).length;
      return Math.max(own, ...partsOf(step).map((part) => longestInside(part, own)));
    }),
  );
}

function longestInside(part: Part, own: number): number {
  if (part.sort === 'steps') return longestNumber(part.steps, own + '.'.length);
  if (part.sort === 'arms') return Math.max(...part.arms.map((arm) => longestNumber(arm, own + '.o'.length)));
  if (part.sort === 'answers') return Math.max(...part.arms.map(({ steps }) => longestNumber(steps, own + '.'.length)));
  if (part.sort === 'scope') return Math.max(...part.parts.map((each) => longestInside(each, own + '#99'.length)));
  return 0;
}
