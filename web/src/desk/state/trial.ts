// What is shown and not stored: a drag, a try, another state that is compared with.
import type { Falling } from "../falls";
import type { Compared } from "../other";
import type { Moved } from "../paths";
import type { Said } from "../../model/types";
import type { Measure } from "../../model/amounts";
import type { Place } from "../steps";
import { slice } from "./slice";

/** A step whose amount can be judged again. */
export interface Judged {
  /** The name under which it is stored, and the revision at which it is: it can be remade while it is the last. */
  id: string;
  revision: number;
  place: Place;
  measure: Measure;
  /** The number that is judged, of those that have several. */
  field: string;
  /** What stood before is shown. */
  flipped: boolean;
  /** Another amount is on its way. */
  going: boolean;
}

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
  judged: Judged | null;
  /** How somebody would fall: being worked out, or to be seen and taken. */
  falling: Falling | null;
}

export const trial = slice<TrialState>("take", () => ({
  dragged: null,
  readout: "",
  moved: null,
  along: null,
  said: null,
  compared: null,
  judged: null,
  falling: null,
}));
