// What is chosen of the open take, and what tools act on.
import type { Own } from "../../model/groups";
import type { Guide, GuideKind } from "../../model/guides";
import { slice } from "./slice";
import type { Schemas } from "../../api/client";

export type WaysTold = Schemas["WaysOut"];
export interface WayChosen {
  start: number;
  footfall?: { number: number; leg: string };
  point?: number;
  along?: number;
}

export interface SelectionState {
  activeId: number;
  /** Tools stay on the active character, whatever is clicked. */
  locked: boolean;
  selection: string[];
  /** Others of the cast that are meant as well, with what is selected of each; nothing is the whole of it. */
  company: Record<number, string[]>;
  /** The control that the selection turns about: of a set, or none. */
  pivotOn: string;
  /** What several controls turn about: each its own place, or one of them. */
  pivot: "each" | "one";
  /** A pivot dropped on the stage, in metres, which goes before both while it lies there. */
  dropped: [number, number, number] | null;
  columns: number[];
  /** Keys chosen in the sheet: frames by channel. */
  keysChosen: Record<string, number[]>;
  /** The same of others that are meant as well, by casting. */
  keysBeside: Record<number, Record<string, number[]>>;
  /** Who of the cast is seen through, or not at all; everybody else is seen. */
  seen: Record<number, "dim" | "hidden">;
  /** The person's own groups of controls, and what of them is hidden, by casting. */
  groups: Record<number, Own>;
  guides: Guide[];
  /** The guide that is being drawn, with the places it has by now. */
  drawing: { kind: GuideKind; view: string; shared: boolean; points: [number, number, number][] } | null;
  /** The ways of one of the cast as they are told, or as they would be after what is tried. */
  ways: { casting: number; told: WaysTold } | null;
  /** The way that is being drawn: its places by now, metres, and whether it begins where its figure is. */
  wayDrawn: { casting: number; here: boolean; points: [number, number, number][] } | null;
  /** What is chosen of a way: a footfall, a point, or a place along it in metres. */
  wayChosen: WayChosen | null;
  /** The plant that is looked at: of which limb's IK control, and where it begins. */
  plant: { control: string; start: number } | null;
  /** The mark of a path that is chosen: of which path, and at which frame. */
  mark: { path: number; frame: number } | null;
  /** The gap between two poses that is worked on in the Curves bench. */
  gap: { first: number; last: number } | null;
  /** The channel that is pointed at in the graph: its axis is drawn on the stage. */
  pointed: string;
  /** The frames over which a template was laid last: what a cycle is most likely wanted of. */
  laid: { start: number; end: number } | null;
  /** Parts that are placed, from which the whole pose is made; null while the body is pulled. */
  few: { casting: number; parts: Record<string, { turn: boolean }> } | null;
  /** A press on the skin of a face means the zone that lies nearest there. */
  byZones: boolean;
}

export const selection = slice<SelectionState>("take", () => ({
  activeId: 0,
  locked: false,
  selection: [],
  company: {},
  pivotOn: "",
  pivot: "each",
  dropped: null,
  columns: [],
  keysChosen: {},
  keysBeside: {},
  seen: {},
  groups: {},
  guides: [],
  drawing: null,
  ways: null,
  wayDrawn: null,
  wayChosen: null,
  plant: null,
  mark: null,
  gap: null,
  pointed: "",
  laid: null,
  few: null,
  byZones: false,
}));
