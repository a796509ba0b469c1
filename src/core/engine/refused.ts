import { itemIn } from '../journal/address.ts';
import type { StepFrame } from './frame.ts';

/** Whether an item of a loop failed since the server refused the credentials that all of them share. */
export function isItemRefused({ address, failed, run }: StepFrame, index: number): boolean {
  if (run.refused.size === 0) return false;
  const last = failed.findLast((each) => itemIn(address, each.address) === index + 1);
  return last?.code === 'not-authorized' && last.status === 401;
}
