// What is shown and not stored: a drag, a try, another state that is compared with.
import type { Compared } from "../other";
import type { Moved } from "../paths";
import type { Said } from "../../model/types";
import { slice } from "./slice";

export interface TrialState {
  /** Channel values while something is dragged or scrubbed, by number; null at rest. */
  dragged: Map<number, number> | null;
  readout: string;
  moved: Moved | null;
  /** Controls that a turn of what carries them has moved, and where they were: place and quaternion. */
  along: { casting: number; frame: number; places: Record<string, number[]> } | null;
  /** What gave in the last pull, and whether the whole figure went along. */
  said: Said | null;
  /** Another state of the shot that is compared with. */
  compared: Compared | null;
}

export const trial = slice<TrialState>("take", () => ({
  dragged: null,
  readout: "",
  moved: null,
  along: null,
  said: null,
  compared: null,
}));
