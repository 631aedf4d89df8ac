// What a bench is: a name and an icon at the left edge, a panel, and what it shows elsewhere while one works at it.
import type { ComponentType, ReactNode } from "react";
import type { DeskState } from "./store";
import type { Room } from "../model/time";

/** Rows of the strip, between the pose cards and the ruler. */
export interface BenchRows {
  /** Pixels that they are high; 0 shows none. */
  high: number;
  /** Pixels at the left for their labels. */
  inset: number;
  draw: (frame: Room) => ReactNode;
}

export interface Bench {
  name: string;
  label: string;
  /** The icon: a way of strokes on 22 by 22. */
  path: string;
  panel: ComponentType;
  /** What the panel is called where it stops. */
  title?: string;
  /** Pixels that the body map above the panel takes at first; 0 leaves it out. */
  map?: number;
  rows?: (s: DeskState) => BenchRows | null | undefined;
  /** Begins what goes on while one works at it; hands back what ends it. */
  enter?: () => () => void;
}
