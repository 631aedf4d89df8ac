// The one store of the open take. Panels read it through React; the stage and playback read it directly.
import { create } from "zustand";
import { Motion, Pose } from "../model/motion";
import type { Compared } from "./other";
import type { Moved, PathLooks } from "./paths";
import type { Question } from "./steps";
import type {
  Alert,
  FaultGroup,
  Said,
  Axes,
  Balance,
  Channel,
  Clip,
  Control,
  Grade,
  Keying,
  Kind,
  Mirroring,
  Path,
  Rig,
  SelectionSet,
  Shape,
  Shot,
  Sides,
  SkinLook,
  Tool,
  ViewName,
} from "../model/types";

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

export interface Grip {
  grade: Grade;
  place: boolean;
  turn: boolean;
}

/** What a body tends to while it is pulled, each from 0 to 1. */
export type Leanings = Record<"spine" | "shoulders" | "knees" | "balance" | "before", number>;

/** A step that the server could not store. */
export interface Aside {
  id: string;
  takeId: number;
  what: string;
  reason: string;
}

export interface Person {
  who: string;
  name: string;
}

export interface DeskState {
  shot: Shot | null;
  takeId: number;
  takeName: string;
  revision: number;
  canUndo: boolean;
  canRedo: boolean;
  cast: Member[];
  activeId: number;
  /** Tools stay on the active character, whatever is clicked. */
  locked: boolean;
  selection: string[];
  /** The control that the selection turns about: of a set, or none. */
  pivotOn: string;
  columns: number[];
  /** Keys chosen in the sheet: frames by channel. */
  keysChosen: Record<string, number[]>;
  /** The plant that is looked at: of which limb's IK control, and where it begins. */
  plant: { control: string; start: number } | null;
  /** Controls that a turn of what carries them has moved, and where they were: place and quaternion. */
  along: { casting: number; frame: number; places: Record<string, number[]> } | null;
  /** Faults of contact, of all who play; null until they are known. */
  /** What the strip is opened into. */
  opened: "" | "sheet" | "graph";
  /** The layer that each of the cast is posed in, by casting; 0, or none, is the motion below all layers. */
  layers: Record<number, number>;
  /** The paths that are looked at, how they are shown, and what the hand has changed of them. */
  paths: Path[];
  pathsShown: boolean;
  pathLooks: PathLooks;
  moved: Moved | null;
  /** The mark of a path that is chosen: of which path, and at which frame. */
  mark: { path: number; frame: number } | null;
  /** Faults of paths and timing, of all who play; null until they are known. */
  faults: Partial<Record<FaultGroup, Alert[] | null>>;
  faultsIn: "world" | "camera";
  /** Another state of the shot that is compared with. */
  compared: Compared | null;
  /** Whether small timing charts stand between the pose cards. */
  chartsShown: boolean;
  /** The gap between two poses that is worked on in the Curves bench. */
  gap: { first: number; last: number } | null;
  /** The channel that is pointed at in the graph: its axis is drawn on the stage. */
  pointed: string;
  /** The frames over which a template was laid last: what a cycle is most likely wanted of. */
  laid: { start: number; end: number } | null;
  frame: number;
  playing: boolean;
  tool: Tool;
  axes: { move: Axes; turn: Axes };
  /** What is gripped while the body is pulled: by casting and part. */
  grips: Record<number, Record<string, Grip>>;
  leanings: Leanings;
  /** Parts that are placed, from which the whole pose is made; null while the body is pulled. */
  few: { casting: number; parts: Record<string, { turn: boolean }> } | null;
  /** What gave in the last pull, and whether the whole figure went along. */
  said: Said | null;
  /** How one of the cast stands, by frame from `first` on; null until it is known. */
  balance: { casting: number; first: number; rows: Balance[] } | null;
  sides: Sides;
  /** What several controls turn about: each its own place, or one of them. */
  pivot: "each" | "one";
  /** A pivot dropped on the stage, in metres, which goes before both while it lies there. */
  dropped: [number, number, number] | null;
  keying: Keying;
  /** How new keys go on to the next one: stepped while blocking. */
  shape: Shape;
  /** What edits of whole poses act on. */
  parts: "whole" | "selection";
  mirrored: Mirroring;
  /** The kinds of channel that keying a control or the whole takes in. */
  kinds: Kind[];
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
  };
  view: ViewName;
  /** Steps that are not stored yet, and since when the server does not take them. */
  waiting: number;
  unreachedSince: Date | null;
  /** Whose sign-in a step waits for; empty when none does. */
  waitsFor: string;
  setAside: Aside[];
  question: Question | null;
  socket: "open" | "lost" | "refused";
  people: Person[];
  /** Channel values while something is dragged or scrubbed, by number; null at rest. */
  dragged: Map<number, number> | null;
  readout: string;
  /** Raised whenever the shown pose was written, so that panels read its values again. */
  posed: number;
}

const store = create<DeskState>()(() => ({
  shot: null,
  takeId: 0,
  takeName: "",
  revision: 0,
  canUndo: false,
  canRedo: false,
  cast: [],
  activeId: 0,
  locked: false,
  selection: [],
  pivotOn: "",
  columns: [],
  keysChosen: {},
  plant: null,
  along: null,
  opened: "",
  layers: {},
  paths: [],
  pathsShown: true,
  pathLooks: { before: 0, after: 0, labels: "keys", every: 4, speed: false },
  moved: null,
  mark: null,
  faults: {},
  faultsIn: "world",
  gap: null,
  chartsShown: false,
  compared: null,
  pointed: "",
  laid: null,
  frame: 1,
  playing: false,
  tool: "move",
  axes: { move: "world", turn: "own" },
  grips: {},
  leanings: { spine: 0.5, shoulders: 0.5, knees: 0.5, balance: 0.5, before: 0.5 },
  few: null,
  said: null,
  balance: null,
  sides: "one",
  pivot: "each",
  dropped: null,
  keying: "changed",
  shape: "smooth",
  parts: "whole",
  mirrored: { master: "keep", body: "mirror" },
  kinds: ["place", "turn", "extra"],
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
  },
  view: "quarter",
  waiting: 0,
  unreachedSince: null,
  waitsFor: "",
  setAside: [],
  question: null,
  socket: "lost",
  people: [],
  dragged: null,
  readout: "",
  posed: 0,
}));

type Select<T> = (s: DeskState) => T;

/** Whether selectors are looked at: in tests, which say so by what they leave on the window. */
const looked = typeof window !== "undefined" && "hame" in window;

/**
 * The store in React. What a selector answers has to be the same as long as the store is: a new object each time draws
 * the panel again without end.
 */
function useStore<T>(select: Select<T>): T {
  if (looked && !Object.is(select(store.getState()), select(store.getState())))
    throw new Error(`A selector answers a new object at every read: ${select.toString()}`);
  return store(select);
}
export const useDesk = Object.assign(useStore, {
  getState: store.getState,
  setState: store.setState,
  subscribe: store.subscribe,
});

export const desk = useDesk.getState;
export const setDesk = useDesk.setState;

export const active = (s: DeskState = desk()): Member | undefined => s.cast.find((m) => m.id === s.activeId);
export const canChange = (s: DeskState = desk()) => s.shot?.can_change ?? false;

/** Lets go of chosen keys and columns: what a key would act on is what is seen to be chosen. */
export const chooseNothing = () => setDesk({ columns: [], keysChosen: {} });

/** What listens to every shown pose and playhead place without React: the stage, the playhead. */
const watchers = new Set<() => void>();
export function onShow(watcher: () => void): () => void {
  watchers.add(watcher);
  return () => void watchers.delete(watcher);
}
export function shown() {
  for (const watcher of watchers) watcher();
}

/** The playhead while playing, which React does not follow. */
export const playhead = { frame: 1, rate: 0, dropped: 0 };

/** A limb's present mode decides which of its controls are to hand. */
export function modeOf(member: Member, limb: string): "ik" | "fk" {
  const found = member.rig.limbs.find((l) => l.name === limb);
  if (!found) return "fk";
  const number = member.channels.get(found.switch);
  return number !== undefined && member.pose.values[number] > 0.5 ? "ik" : "fk";
}

/** Whether a control is to hand now: of its limb's present mode, and its part of the body shown. */
export function toHand(member: Member, control: Control, hidden: Record<string, boolean>): boolean {
  if (control.mode && control.mode !== modeOf(member, control.limb)) return false;
  return !hidden[groupOf(control)];
}

export type Group = "whole" | "trunk" | "head" | "arms" | "hands" | "legs" | "face" | "aims" | "parts" | "further";
export const GROUPS: [Group, string][] = [
  ["whole", "Master and body"],
  ["trunk", "Trunk"],
  ["head", "Neck and head"],
  ["arms", "Arms"],
  ["hands", "Fingers"],
  ["legs", "Legs and feet"],
  ["face", "Jaw and eyes"],
  ["aims", "Knee and elbow aims"],
  ["parts", "Moving parts"],
  ["further", "Coat, cap and the rest"],
];

export function groupOf(control: Control): Group {
  if (control.kind === "pole") return "aims";
  if (control.kind === "master" || control.kind === "body") return "whole";
  if (control.kind === "part") return "parts";
  if (control.kind === "face") return "face";
  if (control.kind === "finger") return "hands";
  if (control.kind === "extra") return "further";
  if (control.part === "head") return "head";
  if (control.part.startsWith("arm")) return "arms";
  if (control.part.startsWith("leg")) return "legs";
  return "trunk";
}

/** The value of a channel as it is shown now. */
export function valueOf(member: Member, channel: number, s: DeskState = desk()): number {
  return s.dragged?.get(channel) ?? member.pose.values[channel];
}

export function channelsOf(member: Member, control: Control): Channel[] {
  return member.rig.channels.slice(control.first, control.first + control.count);
}
