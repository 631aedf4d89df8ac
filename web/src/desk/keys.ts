// Every key of the desk, once: what it does, how it is shown in the help, and the act itself.
import { deleteChosen } from "./arranging";
import { commitFor, meant, type Meant } from "./company";
import { copy, paste } from "./copying";
import { togglePaths } from "./paths";
import { cameraOf } from "./camera";
import { flip } from "./comparing";
import { go, goToKey, goToOwnKey, goToPhase, playOrStop } from "./playing";
import { keyAllThatPlays, keySelection, keyWhole, reset, switchSelected } from "./posing";
import { selectAll, selectBelow, selectOtherSide } from "./selecting";
import { redo, say, undo } from "./steps";
import { askAgain, dragging } from "./dragging";
import { dropGrip, gripSelected, takeUpPull } from "./pulling";
import { chooseAxes, lookFrom, setLooks, takeTool, toggleStrip } from "./viewing";
import { chooseAllColumns, pivotAt } from "./choosing";
import { onStage } from "./onStage";
import { desk } from "./store";
import { everyFrame, fitAll, fitChosen, pageTime } from "./time";
import type { Axes, SkinLook, ViewName } from "../model/types";

export interface Key {
  keys: string;
  shown: string;
  group: string;
  does: string;
  act?: () => unknown;
}

const AXES: Axes[] = ["world", "parent", "own", "view"];
const step = (by: number) => () => go(desk().frame + by);
const view = (name: ViewName) => () => lookFrom(name);
function lookThrough() {
  if (cameraOf()) lookFrom("camera");
  else say("There is no camera in this shot: cast the Shot camera from the shelf first.");
}
const skin = (look: SkinLook) => () => setLooks({ skin: desk().looks.skin === look ? "solid" : look });
const frameOn = (what: "selection" | "figure") => () => onStage.acts?.frame(what);

function nextAxes() {
  const { tool, axes } = desk();
  if (tool !== "pull") chooseAxes(AXES[(AXES.indexOf(axes[tool]) + 1) % AXES.length]);
}

function turnOver() {
  const who = meant();
  const { frame, mirrored, keying } = desk();
  const edit = ({ controls }: Meant) =>
    ({ kind: "mirror", frame, to: null, way: "swap", controls, how: mirrored, keying }) as const;
  void commitFor(who, edit).then(
    (ok) => ok && say(`Turned over at ${frame}: ${who[0].controls ? "what is selected" : "the whole pose"}.`),
  );
}

const ghosts = () => setLooks({ ghosts: (desk().looks.ghosts + 1) % 3 });

export const KEYS: Key[] = [
  { group: "Playing", keys: "space", shown: "Space", does: "play and stop", act: playOrStop },
  { group: "Playing", keys: "arrowleft", shown: "←  →", does: "a frame back, on", act: step(-1) },
  { group: "Playing", keys: "arrowright", shown: "", does: "", act: step(1) },
  { group: "Playing", keys: "shift+arrowleft", shown: "Shift ←  →", does: "two frames", act: step(-2) },
  { group: "Playing", keys: "shift+arrowright", shown: "", does: "", act: step(2) },
  { group: "Playing", keys: "mod+arrowleft", shown: "Ctrl ←  →", does: "three frames", act: step(-3) },
  { group: "Playing", keys: "mod+arrowright", shown: "", does: "", act: step(3) },
  { group: "Playing", keys: "arrowup", shown: "↑  ↓", does: "previous, next key", act: () => goToKey(-1) },
  { group: "Playing", keys: "arrowdown", shown: "", does: "", act: () => goToKey(1) },
  {
    group: "Playing",
    keys: "shift+arrowup",
    shown: "Shift ↑  ↓",
    does: "previous, next key of what is selected",
    act: () => goToOwnKey(-1),
  },
  { group: "Playing", keys: "shift+arrowdown", shown: "", does: "", act: () => goToOwnKey(1) },
  {
    group: "Playing",
    keys: "mod+arrowup",
    shown: "Ctrl ↑  ↓",
    does: "the same phase a turn of the cycle before, after",
    act: () => goToPhase(-1),
  },
  { group: "Playing", keys: "mod+arrowdown", shown: "", does: "", act: () => goToPhase(1) },
  {
    group: "Playing",
    keys: "mod+shift+arrowleft",
    shown: "Ctrl+Shift ←  →",
    does: "as many frames as Step says",
    act: () => go(desk().frame - desk().step),
  },
  {
    group: "Playing",
    keys: "mod+shift+arrowright",
    shown: "",
    does: "",
    act: () => go(desk().frame + desk().step),
  },
  {
    group: "Playing",
    keys: "home",
    shown: "Home, End",
    does: "first, last frame played",
    act: () => go(desk().shot!.play_start),
  },
  { group: "Playing", keys: "end", shown: "", does: "", act: () => go(desk().shot!.play_end) },
  { group: "Keys and columns", keys: "k", shown: "K", does: "key the selection", act: keySelection },
  {
    group: "Keys and columns",
    keys: "mod+k",
    shown: "Ctrl+K",
    does: "key everybody and everything that plays",
    act: keyAllThatPlays,
  },
  { group: "Keys and columns", keys: "shift+k", shown: "Shift+K", does: "key the whole character", act: keyWhole },
  {
    group: "Keys and columns",
    keys: "mod+c",
    shown: "Ctrl+C",
    does: "copy the pose here, or the keys chosen in the sheet",
    act: copy,
  },
  { group: "Keys and columns", keys: "mod+v", shown: "Ctrl+V", does: "paste it here", act: () => paste() },
  {
    group: "Keys and columns",
    keys: "shift+u",
    shown: "Shift+U",
    does: "paste it turned over",
    act: () => paste(true),
  },
  {
    group: "Keys and columns",
    keys: "u",
    shown: "U",
    does: "turn the pose over: left and right change places",
    act: turnOver,
  },
  {
    group: "Keys and columns",
    keys: "s",
    shown: "S",
    does: "open the sheet, and close it",
    act: () => toggleStrip("sheet"),
  },
  {
    group: "Keys and columns",
    keys: "v",
    shown: "V",
    does: "open the graph of values, and close it",
    act: () => toggleStrip("graph"),
  },
  {
    group: "Keys and columns",
    keys: "delete",
    shown: "Delete",
    does: "delete chosen keys or columns",
    act: deleteChosen,
  },
  {
    group: "Keys and columns",
    keys: "mod+shift+a",
    shown: "Ctrl+Shift+A",
    does: "choose all columns",
    act: chooseAllColumns,
  },
  { group: "Keys and columns", keys: "mod+z", shown: "Ctrl+Z", does: "undo", act: undo },
  { group: "Keys and columns", keys: "mod+shift+z", shown: "Ctrl+Shift+Z", does: "redo", act: redo },
  { group: "Time", keys: "z", shown: "Z", does: "every frame about the playhead, and all again", act: everyFrame },
  { group: "Time", keys: "e", shown: "E", does: "all of the shot", act: fitAll },
  { group: "Time", keys: "shift+e", shown: "Shift+E", does: "what is chosen, or selected", act: fitChosen },
  { group: "Time", keys: "comma", shown: ",  .", does: "shift by a half of what is shown", act: () => pageTime(-0.5) },
  { group: "Time", keys: "period", shown: "", does: "", act: () => pageTime(0.5) },
  { group: "Time", keys: "", shown: "Wheel on it", does: "nearer, further; with Shift, or a right drag: shift" },
  {
    group: "Looking",
    keys: "a",
    shown: "A",
    does: "draw the paths (arcs) of what is selected, or take them away",
    act: togglePaths,
  },
  { group: "Posing", keys: "m", shown: "M", does: "move", act: () => takeTool("move") },
  { group: "Posing", keys: "t", shown: "T", does: "turn", act: () => takeTool("turn") },
  { group: "Posing", keys: "b", shown: "B", does: "pull: the body follows", act: takeUpPull },
  {
    group: "Posing",
    keys: "l",
    shown: "L",
    does: "grip what is selected: loose, firm, fast, none; while pulling, let a grip go",
    act: gripSelected,
  },
  { group: "Posing", keys: "x", shown: "X", does: "next axes: world, parent, own, view", act: nextAxes },
  {
    group: "Posing",
    keys: "p",
    shown: "P",
    does: "drop a pivot under the pointer, to turn about",
    act: () => onStage.acts?.dropPivot(),
  },
  { group: "Posing", keys: "shift+p", shown: "Shift+P", does: "take the pivot away", act: () => pivotAt(null) },
  { group: "Posing", keys: "i", shown: "I", does: "limb between IK and FK", act: switchSelected },
  { group: "Posing", keys: "r", shown: "R", does: "selection back to rest", act: () => reset(false) },
  { group: "Posing", keys: "shift+r", shown: "Shift+R", does: "all back to rest", act: () => reset(true) },
  { group: "Posing", keys: "", shown: "Shift while dragging", does: "fine" },
  { group: "Posing", keys: "", shown: "Ctrl while dragging", does: "in whole steps" },
  { group: "Posing", keys: "", shown: "Escape", does: "leave the drag, keep the pose" },
  { group: "Selecting", keys: "mod+a", shown: "Ctrl+A", does: "the whole character", act: selectAll },
  { group: "Selecting", keys: "d", shown: "D", does: "add all below", act: selectBelow },
  { group: "Selecting", keys: "o", shown: "O", does: "the other side", act: selectOtherSide },
  { group: "Selecting", keys: "", shown: "Click", does: "select; Shift adds, Ctrl takes away" },
  { group: "Selecting", keys: "", shown: "Drag", does: "all inside; Alt draws round it" },
  { group: "Looking", keys: "q", shown: "Q", does: "flip to what is compared with, and back", act: flip },
  { group: "Looking", keys: "1", shown: "1", does: "front", act: view("front") },
  { group: "Looking", keys: "2", shown: "2", does: "side", act: view("side") },
  { group: "Looking", keys: "3", shown: "3", does: "top", act: view("top") },
  { group: "Looking", keys: "4", shown: "4", does: "back", act: view("back") },
  { group: "Looking", keys: "5", shown: "5", does: "three-quarter", act: view("quarter") },
  { group: "Looking", keys: "6", shown: "6", does: "the shot camera", act: lookThrough },
  { group: "Looking", keys: "c", shown: "C", does: "centre the selection", act: frameOn("selection") },
  { group: "Looking", keys: "w", shown: "W", does: "the whole figure", act: frameOn("figure") },
  { group: "Looking", keys: "g", shown: "G", does: "see-through skin (glass)", act: skin("clear") },
  { group: "Looking", keys: "h", shown: "H", does: "hide controls: skin only", act: skin("only") },
  { group: "Looking", keys: "n", shown: "N", does: "ghosts of the neighbouring keys: one, two, none", act: ghosts },
  {
    group: "Looking",
    keys: "f",
    shown: "F",
    does: "stage full, and back",
    act: () => setLooks({ full: !desk().looks.full }),
  },
  { group: "Looking", keys: "", shown: "Right drag", does: "go round; with Shift, or middle: shift" },
  { group: "Looking", keys: "", shown: "Wheel", does: "nearer, further" },
];

const BY_KEY = new Map(KEYS.filter((k) => k.keys).map((k) => [k.keys, k]));
export const PRESSABLE = [...BY_KEY.keys()];

/** Runs the act of a pressed key. Keys mean the same wherever the pointer is; in a field or a dialog they write. */
export function pressed(event: KeyboardEvent, hotkey: string) {
  if (dragging() && desk().tool === "pull" && hotkey === "l") {
    if (dropGrip()) askAgain();
    return event.preventDefault();
  }
  if ((event.target as HTMLElement).closest("[role=dialog], [role=menu]") || dragging() || !desk().shot) return;
  event.preventDefault();
  BY_KEY.get(hotkey)?.act?.();
}
