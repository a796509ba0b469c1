import type { Part } from '../core/engine/settings.ts';
import type { Share } from '../core/pacing/rate-limit.ts';
import { CommandError } from '../runner/command-error.ts';

/** `--limit-share 1/3`, `--slice 2/5`. */
export function fractionOf(option: string, example: string, said: string): Share {
  const [, part, of] = /^(\d+)\/(\d+)$/.exec(said)?.map(Number) ?? [];
  if (part === undefined || of === undefined || part < 1 || part > of)
    throw new CommandError('invalid-option', `${option} needs a fraction such as ${example}, not "${said}"`);
  return { part, of };
}

export function shareOf(said: string | undefined): Share | undefined {
  return said === undefined ? undefined : fractionOf('--limit-share', '1/3', said);
}

/** `--first 3` or `--sample 3`. */
export function partOf({ first, sample }: Readonly<{ first?: string; sample?: string }>): Part | undefined {
  if (first !== undefined && sample !== undefined)
    throw new CommandError('invalid-option', '--first and --sample are two ways to choose, and one is enough');
  const said = first ?? sample;
  if (said === undefined) return undefined;
  const count = Number(said);
  if (Number.isInteger(count) && count > 0) return first === undefined ? { sample: count } : { first: count };
  throw new CommandError(
    'invalid-option',
    `--${first === undefined ? 'sample' : 'first'} needs a number of items, not "${said}"`,
  );
}
