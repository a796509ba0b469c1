/** Thrown when somebody else writes to a run: nothing more is done for it here. */
export class RunUnderWay extends Error {}
