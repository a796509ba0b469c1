import type { Flow, Picture } from './picture.ts';

/** A flow on its way: the track that it takes, and which of those that leave and arrive at its rows it is. */
export type Route = Flow & Readonly<{ track: number; exit: number; entry: number }>;

/** The ways of all flows, and what each row has of them. */
export type Routes = Readonly<{
  routes: readonly Route[];
  tracks: number;
  /** How many flows arrive at a row and leave it; those that arrive are uppermost. */
  places: readonly Readonly<{ entries: number; exits: number }>[];
}>;

/**
 * Gives each flow a track that no other uses between the same rows. Short ways take the inner tracks, so that they are not
 * crossed by long ones; of what arrives at a row, what comes from nearest is uppermost.
 */
export function routesOf({ rows, flows }: Picture): Routes {
  const places = rows.map(() => ({ entries: 0, exits: 0 }));
  const bySpan = [...flows].sort((a, b) => span(a) - span(b) || a.from - b.from);
  const entries = new Map<Flow, number>();
  for (const flow of bySpan) entries.set(flow, places[flow.to]!.entries++);
  const taken: Flow[][] = [];
  const routes = bySpan.map((flow): Route => {
    let track = taken.findIndex((others) => others.every((other) => !meet(other, flow)));
    if (track < 0) track = taken.push([]) - 1;
    taken[track]!.push(flow);
    // What goes furthest leaves last, outside of all others.
    const exit = places[flow.from]!.exits++;
    return { ...flow, track, exit, entry: entries.get(flow)! };
  });
  return { routes, tracks: taken.length, places };
}

function span({ from, to }: Flow): number {
  return Math.abs(to - from);
}

/** Whether two flows would touch in one track. */
function meet(a: Flow, b: Flow): boolean {
  const [low, high] = [Math.min(a.from, a.to), Math.max(a.from, a.to)];
  return Math.max(low, Math.min(b.from, b.to)) <= Math.min(high, Math.max(b.from, b.to));
}
