import type { Clock } from '../ports.ts';
import { Lane, type LaneOptions } from './lane.ts';
import type { LaneStore } from './lane-state.ts';
import { sharedPace, type Share } from './pace.ts';

/** The lanes of a run: one for each api at its deployment, for each foreign origin, and for each call with a pace of its own. */
export class Lanes {
  private readonly lanes = new Map<string, Lane>();

  constructor(
    readonly store: LaneStore,
    private readonly clock: Clock,
    private readonly share: Share | undefined,
  ) {}

  /** The lane of a name; made when it is first asked for. */
  lane(options: LaneOptions): Lane {
    let lane = this.lanes.get(options.name);
    if (!lane) {
      const pace = this.share ? sharedPace(options.pace, this.share) : options.pace;
      lane = new Lane({ ...options, pace }, this.store, this.clock);
      this.lanes.set(options.name, lane);
    }
    return lane;
  }

  all(): readonly Lane[] {
    return [...this.lanes.values()];
  }
}
