// The ways that a gap can go, by the numbers under which they are stored.
import { FACTS } from "../api/facts.gen";
import type { AnyEdit } from "./types";

export type Way = Extract<AnyEdit, { kind: "way" }>["way"];

export const WAY_OF: readonly Way[] = FACTS.ways;

/** What a way is called on a button. */
export const wayLabel = (way: Way) =>
  way === "both" ? "Slow start and stop" : way.charAt(0).toUpperCase() + way.slice(1);
