// How the page looks at takes and how its tools are set: it stays when another take is opened.
import { usualWeighing, type Weighing } from "../../model/weighing";
import type { PathLooks } from "../paths";
import type { Axes, Grade, Keying, Kind, Mirroring, Shape, Sides, SkinLook, Tool, ViewName } from "../../model/types";
import { slice } from "./slice";

export interface Grip {
  grade: Grade;
  place: boolean;
  turn: boolean;
}

/** What a body tends to while it is pulled, each from 0 to 1. */
export type Leanings = Record<"spine" | "shoulders" | "knees" | "balance" | "before", number>;

export interface ViewState {
  /** What the strip is opened into. */
  opened: "" | "sheet" | "graph";
  view: ViewName;
  looks: {
    skin: SkinLook;
    pickSkin: boolean;
    hidden: Record<string, boolean>;
    sights: boolean;
    full: boolean;
    reference: boolean;
    ghosts: number;
    follow: boolean;
    weight: boolean;
    rays: boolean;
    across: boolean;
    /** The way of the mass over the frames that are played, and where the ground is asked to bear it. */
    fall: boolean;
    guides: boolean;
  };
  pathsShown: boolean;
  pathLooks: PathLooks;
  faultsIn: "world" | "camera";
  /** What is shown of the weight on the strip, and beyond what it is a fault: kept for the person. */
  weighing: Weighing;
  /** Whether small timing charts stand between the pose cards. */
  chartsShown: boolean;
  tool: Tool;
  axes: { move: Axes; turn: Axes };
  sides: Sides;
  /** What is gripped while the body is pulled: by casting and part. */
  grips: Record<number, Record<string, Grip>>;
  leanings: Leanings;
  keying: Keying;
  /** How new keys go on to the next one: stepped while blocking. */
  shape: Shape;
  /** What edits of whole poses act on. */
  parts: "whole" | "selection";
  mirrored: Mirroring;
  /** The kinds of channel that keying a control or the whole takes in. */
  kinds: Kind[];
  /** So many frames a step of one's own goes. */
  step: number;
  /** Raised whenever the shown pose was written, so that panels read its values again. */
  posed: number;
}

export const view = slice<ViewState>("page", () => ({
  opened: "",
  view: "quarter",
  // What moves late in the work is out of the way at first.
  looks: {
    skin: "solid",
    pickSkin: true,
    hidden: { further: true },
    sights: true,
    full: false,
    reference: false,
    ghosts: 0,
    follow: true,
    weight: false,
    rays: false,
    across: false,
    fall: false,
    guides: true,
  },
  pathsShown: true,
  pathLooks: { speed: false },
  faultsIn: "world",
  weighing: usualWeighing(),
  chartsShown: false,
  tool: "move",
  axes: { move: "world", turn: "own" },
  sides: "one",
  grips: {},
  leanings: { spine: 0.5, shoulders: 0.5, knees: 0.5, balance: 0.5, before: 0.5 },
  keying: "changed",
  shape: "smooth",
  parts: "whole",
  mirrored: { master: "keep", body: "mirror" },
  kinds: ["place", "turn", "extra"],
  step: 10,
  posed: 0,
}));
