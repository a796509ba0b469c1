import type { Part } from '../core/engine/context.ts';
import type { Share } from '../core/pacing/pace.ts';
import { UsageFault } from './usage-fault.ts';

/** `--share 1/3`. */
export function shareOf(said: string | undefined): Share | undefined {
  if (said === undefined) return undefined;
  const [, part, of] = /^(\d+)\/(\d+)$/.exec(said)?.map(Number) ?? [];
  if (part === undefined || of === undefined || part < 1 || part > of)
    throw new UsageFault('bad-option', `--share wants a part such as 1/3, and "${said}" is none`);
  return { part, of };
}

/** `--first 3` or `--spread 3`. */
export function partOf({ first, spread }: Readonly<{ first?: string; spread?: string }>): Part | undefined {
  if (first !== undefined && spread !== undefined)
    throw new UsageFault('bad-option', '--first and --spread are two ways to choose, and one is enough');
  const said = first ?? spread;
  if (said === undefined) return undefined;
  const count = Number(said);
  if (Number.isInteger(count) && count > 0) return first === undefined ? { spread: count } : { first: count };
  throw new UsageFault(
    'bad-option',
    `--${first === undefined ? 'spread' : 'first'} wants a number of items, and "${said}" is none`,
  );
}
