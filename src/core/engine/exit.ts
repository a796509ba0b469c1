/** Exit statuses from the one that says most of how a run ended. */
const ORDER = [130, 4, 2, 5, 3, 1, 0];

/** Of two exit statuses the one that says more. */
export function moreSevereExit(left: number, right: number): number {
  return ORDER.indexOf(left) <= ORDER.indexOf(right) ? left : right;
}
