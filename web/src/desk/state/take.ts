// The take that is open: whose it is, who plays in it, and what is known of it.
import { type Motion, type Pose } from "../../model/motion";
import type { Alert, Balance, Clip, Control, FaultGroup, Path, Rig, SelectionSet, Shot } from "../../model/types";
import type { Stretch } from "../../model/time";
import { slice } from "./slice";

/** A character of the cast with all that is known of it. */
export interface Member {
  id: number;
  /** The take that its clip is of. */
  takeId: number;
  name: string;
  /** A thing, of parts that move as they are: it has no body. */
  prop: boolean;
  rig: Rig;
  clip: Clip;
  motion: Motion;
  pose: Pose;
  controls: Map<string, Control>;
  channels: Map<string, number>;
  /** Controls that no edit may touch. */
  protect: string[];
  sets: SelectionSet[];
  /** What its mesh is asked for by: another file has another one. */
  mesh: string;
}

export interface Person {
  who: string;
  name: string;
}

export interface TakeState {
  shot: Shot | null;
  takeId: number;
  takeName: string;
  revision: number;
  canUndo: boolean;
  canRedo: boolean;
  cast: Member[];
  /** The layer that each of the cast is posed in, by casting; 0, or none, is the motion below all layers. */
  layers: Record<number, number>;
  /** The paths that are looked at, how they are shown, and what the hand has changed of them. */
  paths: Path[];
  /** Faults of paths and timing, of all who play; null until they are known. */
  faults: Partial<Record<FaultGroup, Alert[] | null>>;
  /** How one of the cast stands, by frame from `first` on; null until it is known. */
  balance: { casting: number; first: number; rows: Balance[] } | null;
  people: Person[];
  socket: "open" | "lost" | "refused";
  frame: number;
  playing: boolean;
  /** The frames that the time line shows; null: all of the shot. */
  time: Stretch | null;
}

export const take = slice<TakeState>("take", () => ({
  shot: null,
  takeId: 0,
  takeName: "",
  revision: 0,
  canUndo: false,
  canRedo: false,
  cast: [],
  layers: {},
  paths: [],
  faults: {},
  balance: null,
  people: [],
  socket: "lost",
  frame: 1,
  playing: false,
  time: null,
}));
