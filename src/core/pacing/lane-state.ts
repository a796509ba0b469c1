/** One sending that was planned, or has been done, in a lane. */
export type Slot = Readonly<{
  /** When it is to go out, or went out; milliseconds since 1970. */
  at: number;
  /** Who has still to send it; nothing when it is done with. */
  owner?: number;
}>;

/** What a server's own counting leaves: no sending from the slot `limit` on before `until`. */
export type Budget = Readonly<{ limit: number; until: number; name: string }>;

/** What is known of a lane beside its slots. */
export type LaneHead = {
  /** Slots that were ever taken; the number of the next one. */
  taken: number;
  /** Nothing goes out before this instant. */
  closedUntil: number;
  quotas: Record<string, { from: number; used: number }>;
  /** By the response to which slot the server was heard last, and what it left. */
  heardBy: number;
  budgets: readonly Budget[];
};

/** A lane as it is at one moment. What is changed in it is kept when the work on it ends. */
export interface LaneState {
  readonly head: LaneHead;
  /** The slot of a number, as long as it is remembered. */
  slot(number: number): Slot | undefined;
}

/** A lane that all who pace themselves by it share: one file, or one object. */
export interface SharedLane {
  /** As it is now; others may be at it. */
  look(): LaneState;
  /** Puts down when the slot of a number is to go out, or went out. It belongs to who took it, so nobody else writes it. */
  put(number: number, slot: Slot): void;
}

/** Where lanes are kept. */
export interface LaneStore {
  /** Whoever takes slots here, as slots name it. */
  readonly owner: number;
  /** Whether who took a slot may still send it. */
  isAlive(owner: number): boolean;
  /** Whether a lane is kept already. */
  has(name: string): boolean;
  /** Opens a lane that remembers so many slots; its longest window in milliseconds. */
  open(name: string, slots: number, windowMs: number): SharedLane;
  /** Works on lanes while nobody else does, the outer one first. */
  alone<T>(lanes: readonly SharedLane[], work: (states: readonly LaneState[]) => T): Promise<T>;
  close(): void;
}

export function emptyHead(): LaneHead {
  return { taken: 0, closedUntil: 0, quotas: {}, heardBy: -1, budgets: [] };
}

/** Lanes that are kept in memory: for one process alone, and for what is only simulated. */
export class MemoryLanes implements LaneStore {
  readonly owner = 1;
  private readonly lanes = new Map<string, SharedLane>();

  isAlive(): boolean {
    return true;
  }

  has(name: string): boolean {
    return this.lanes.has(name);
  }

  open(name: string, slots: number): SharedLane {
    const known = this.lanes.get(name);
    if (known) return known;
    const ring = new Map<number, Slot>();
    const state: LaneState = { head: emptyHead(), slot: (number) => ring.get(number) };
    const lane: SharedLane = {
      put: (number: number, slot: Slot) => {
        ring.set(number, slot);
        ring.delete(number - slots - 1);
      },
      look: () => state,
    };
    this.lanes.set(name, lane);
    return lane;
  }

  alone<T>(lanes: readonly SharedLane[], work: (states: readonly LaneState[]) => T): Promise<T> {
    return Promise.resolve(work(lanes.map((lane) => lane.look())));
  }

  close(): void {}
}
