/** The made-up port of Kvitnes. All names and numbers are drawn from one seed, so that every run sees the same. */
type Vessel = Readonly<{
  id: string;
  name: string;
  flag: string;
  master: string;
  draught: number;
  length: number;
}>;
type Arrival = Readonly<{
  id: string;
  vessel: string;
  name: string;
  flag: string;
  day: string;
  state: 'expected' | 'moored' | 'left';
  berth: string | null;
}>;
export type Berth = { id: string; name: string; quay: string; depth: number; taken_by: string | null; version: number };

export type Port = Readonly<{ vessels: readonly Vessel[]; arrivals: readonly Arrival[]; berths: Map<string, Berth> }>;

const FIRST = ['Sølv', 'Grå', 'Nord', 'Lange', 'Stille', 'Blå', 'Vester', 'Kalde', 'Lyse', 'Tause'];
const SECOND = ['måken', 'fjord', 'vind', 'bølge', 'holm', 'ternen', 'sund', 'skjær', 'bukt', 'stjerne'];
const MASTERS = ['I. Haldorsen', 'M. Quist', 'T. Abara', 'R. Lindqvist', 'S. Oyelaran', 'P. Novak', 'A. Brekke'];
const FLAGS = ['NO', 'PT', 'DK', 'IS', 'IE'];
const PREFIXES = ['KM', 'SV', 'TR'];
const STATES = ['expected', 'expected', 'moored', 'left'] as const;

const QUAYS = [
  ['N', 'North', 3],
  ['S', 'South', 4],
  ['W', 'West', 3],
] as const;
/** Berths that are left free, so that there is always something to reserve. */
const KEPT_FREE = 4;

/** The first day of the harbour's calendar; arrivals are drawn for five days from it. */
export const FIRST_DAY = '2026-05-21';
const DAYS = 5;

/** A generator of numbers from 0 up to 1 (mulberry32): small, fast, and the same everywhere. */
export function randomFrom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
}

/** The port as it is when it opens. */
export function createPort(seed: number): Port {
  const random = randomFrom(seed);
  const pick = <T>(from: readonly T[]): T => from[Math.floor(random() * from.length)]!;
  const vessels = Array.from({ length: 24 }, (_, i): Vessel => {
    // A slash and a blank in every id, so that nothing works without encoding.
    const id = `${PREFIXES[i % PREFIXES.length]} ${100 + i * 13}/${1 + Math.floor(random() * 9)}`;
    const draught = Math.round((2.5 + random() * 7) * 10) / 10;
    return {
      id,
      name: `${pick(FIRST)}${pick(SECOND)}`,
      flag: pick(FLAGS),
      master: pick(MASTERS),
      draught,
      length: 40 + Math.floor(random() * 140),
    };
  });
  const berths = new Map<string, Berth>();
  for (const [quay, name, count] of QUAYS) {
    for (let i = 1; i <= count; i++) {
      const id = `${quay}${i}`;
      berths.set(id, {
        id,
        name: `${name} quay ${i}`,
        quay,
        depth: 5 + Math.round(random() * 12) / 2,
        taken_by: null,
        version: 1,
      });
    }
  }
  const arrivals = Array.from({ length: DAYS * 6 }, (_, i): Arrival => {
    const vessel = vessels[(i * 7) % vessels.length]!;
    const day = new Date(Date.parse(FIRST_DAY) + Math.floor(i / 6) * 86_400_000).toISOString().slice(0, 10);
    const drawn = pick(STATES);
    const berth = drawn === 'moored' ? moor(vessel, berths) : null;
    const state = drawn === 'moored' && berth === null ? 'expected' : drawn;
    return { id: `A-${300 + i}`, vessel: vessel.id, name: vessel.name, flag: vessel.flag, day, state, berth };
  });
  return { vessels, arrivals, berths };
}

/** Gives a vessel the first free berth with water enough, while there are some left. */
function moor(vessel: Vessel, berths: ReadonlyMap<string, Berth>): string | null {
  const free = [...berths.values()].filter(({ taken_by }) => taken_by === null);
  const berth = free.find(({ depth }) => depth > vessel.draught);
  if (!berth || free.length <= KEPT_FREE) return null;
  berth.taken_by = vessel.id;
  return berth.id;
}
