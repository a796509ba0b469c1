/**
 * Where a step stands in its run, as records and people name it: numbers from 1, items and rounds behind `#`, a slash and
 * the step's name, as in `4/confirm`, `2#5.2/watch-clearance`, `4.o1/say`, `c1/close` in a cleanup, `u1/open` for an undo.
 * Only this file knows how one is put together and taken apart.
 */
export type Address = string;

/** The address of a step in a list; `inside` is what stands before its number: empty, or what the functions below give. */
export function stepAddress(inside: Address, index: number, name: string): Address {
  return `${inside}${index + 1}/${name}`;
}

/** Before the numbers of steps inside a step, or inside one of its items. */
export function insideOfStep(address: Address): Address {
  return `${stepNumber(address)}.`;
}

/** Before the numbers of steps in an `otherwise`. */
export function insideOtherwise(address: Address): Address {
  return `${stepNumber(address)}.o`;
}

/** Before the numbers of the steps of a cleanup. */
export function insideCleanup(inside: Address): Address {
  return `${inside}c`;
}

/** An item or a round of a loop, counted from 1: `2#5`. */
export function itemAddress(loop: Address, number: number): Address {
  return `${stepNumber(loop)}#${number}`;
}

/** The address of the request that takes something back. */
export function undoAddress(index: number, name: string): Address {
  return `u${index + 1}/${name}`;
}

/** Whether a step took something back when the chain ended. */
export function isUndo(address: Address): boolean {
  return /^u\d+\//.test(address);
}

/** `watch-clearance` of `2#5.2/watch-clearance`. */
export function stepName(address: Address): string {
  return address.slice(address.indexOf('/') + 1);
}

/** `2#5.2` of `2#5.2/watch-clearance`. */
export function stepNumber(address: Address): Address {
  const slash = address.indexOf('/');
  return slash < 0 ? address : address.slice(0, slash);
}

/** The number of the innermost loop that a step is in, or of which an item is one: `2` of `2#5.2/watch-clearance` and of `2#5`. */
export function loopOf(address: Address): Address | undefined {
  return /^(.*)#\d+(?:\.[^#]*)?$/.exec(stepNumber(address))?.[1];
}

/** The innermost item or round that a step is in: `2#5` of `2#5.2/watch-clearance`; empty outside of loops. */
export function itemOf(address: Address): Address {
  return /^(.*#\d+)(?:\.[^#]*)?$/.exec(stepNumber(address))?.[1] ?? '';
}

/** The loop of which an address is an item or a round itself, and which one; nothing of an address inside of one. */
export function asItem(address: Address): Readonly<{ loop: Address; number: number }> | undefined {
  const found = /^(.*)#(\d+)$/.exec(stepNumber(address));
  return found ? { loop: found[1]!, number: Number(found[2]) } : undefined;
}

/** The item of which an address is the first step: `2#5` of `2#5.1/ask`. */
export function itemBegunBy(address: Address): Address | undefined {
  return /^(.*#\d+)\.1$/.exec(stepNumber(address))?.[1];
}

/** The numbers of the items and rounds that a step is in, the outermost first: `5.2` of `2#5.1#2.1/look`. */
export function itemsOf(address: Address): string {
  return itemNumbers(address).join('.');
}

/** The same as numbers. */
export function itemNumbers(address: Address): readonly number[] {
  return [...stepNumber(address).matchAll(/#(\d+)/g)].map(([, number]) => Number(number));
}

/** The number of the item of a loop that an address is, or in which it is; nothing when it is not in that loop. */
export function itemIn(loop: Address, address: Address): number | undefined {
  const head = `${stepNumber(loop)}#`;
  const number = stepNumber(address);
  return number.startsWith(head) ? Number.parseInt(number.slice(head.length), 10) : undefined;
}

/** Every number of an address, in order, for sorting. */
export function numbersOf(address: Address): readonly number[] {
  return (stepNumber(address).match(/\d+/g) ?? []).map(Number);
}

/** The number of a step as its chain has it, whatever item it was for: `2.1` of `2#5.1/look`. */
export function placeInChain(address: Address): string {
  return stepNumber(address).replace(/#\d+/g, '');
}

/** Whether a step is named by a whole address, by its number, or by its name. */
export function isNamed(address: Address, wanted: string): boolean {
  return [stepName(address), address, stepNumber(address)].includes(wanted);
}
