/** The part of the package that is used here; it has no types of its own. */
declare module 'd3-scale' {
  type Scale = ((value: number) => number) & {
    domain(from: readonly [number, number]): Scale;
    range(to: readonly [number, number]): Scale;
    ticks(count: number): number[];
  };
  export function scaleLinear(): Scale;
  export function scaleLog(): Scale;
}
