import type { Cycle } from "./types";

/** The last frame up to a wished one at which whole turns of a cycle are over; its first turn at least. */
export function wholeTurns(cycle: Cycle, wished: number): number {
  const length = cycle.end - cycle.start;
  return cycle.start + Math.max(Math.floor((wished - cycle.start) / length), 1) * length;
}
