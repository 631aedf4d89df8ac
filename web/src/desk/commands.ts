// Every command that can have a key, once: what it does in words, and the act itself.
import { deleteChosen } from "./arranging";
import { commitFor, meant, type Meant } from "./company";
import { copy, paste } from "./copying";
import { togglePaths } from "./paths";
import { cameraOf } from "./camera";
import { flipAmount, judgedNow } from "./amounts";
import { flip } from "./comparing";
import { go, goToKey, goToOwnKey, goToPhase, playOrStop } from "./playing";
import { keyAllThatPlays, keySelection, keyWhole, reset, switchSelected } from "./posing";
import { selectAll, selectBelow, selectOtherSide } from "./selecting";
import { redo, say, undo } from "./steps";
import { gripSelected, takeUpPull } from "./pulling";
import { chooseAxes, lookFrom, setLooks, takeTool, toggleStrip } from "./viewing";
import { chooseAllColumns, pivotAt } from "./choosing";
import { onStage } from "./onStage";
import { desk } from "./store";
import { everyFrame, fitAll, fitChosen, pageTime } from "./time";
import type { Axes, SkinLook, ViewName } from "../model/types";

/** Something that a key does: by its name it has keys (model/bindings.ts). */
export interface Command {
  id: string;
  group: string;
  does: string;
  act: () => unknown;
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

export const COMMANDS: Command[] = [
  { id: "play", group: "Playing", does: "play and stop", act: playOrStop },
  { id: "frame back", group: "Playing", does: "a frame back", act: step(-1) },
  { id: "frame on", group: "Playing", does: "a frame on", act: step(1) },
  { id: "two back", group: "Playing", does: "two frames back", act: step(-2) },
  { id: "two on", group: "Playing", does: "two frames on", act: step(2) },
  { id: "three back", group: "Playing", does: "three frames back", act: step(-3) },
  { id: "three on", group: "Playing", does: "three frames on", act: step(3) },
  { id: "key before", group: "Playing", does: "the key before", act: () => goToKey(-1) },
  { id: "key after", group: "Playing", does: "the next key", act: () => goToKey(1) },
  { id: "own key before", group: "Playing", does: "the key before of what is selected", act: () => goToOwnKey(-1) },
  { id: "own key after", group: "Playing", does: "the next key of what is selected", act: () => goToOwnKey(1) },
  { id: "phase before", group: "Playing", does: "the same phase a turn of the cycle before", act: () => goToPhase(-1) },
  { id: "phase after", group: "Playing", does: "the same phase a turn after", act: () => goToPhase(1) },
  {
    id: "step back",
    group: "Playing",
    does: "as many frames back as Step says",
    act: () => go(desk().frame - desk().step),
  },
  {
    id: "step on",
    group: "Playing",
    does: "as many frames on as Step says",
    act: () => go(desk().frame + desk().step),
  },
  { id: "first", group: "Playing", does: "the first frame played", act: () => go(desk().shot!.play_start) },
  { id: "last", group: "Playing", does: "the last frame played", act: () => go(desk().shot!.play_end) },
  { id: "key", group: "Keys and columns", does: "key the selection", act: keySelection },
  { id: "key all", group: "Keys and columns", does: "key everybody and everything that plays", act: keyAllThatPlays },
  { id: "key whole", group: "Keys and columns", does: "key the whole character", act: keyWhole },
  { id: "copy", group: "Keys and columns", does: "copy the pose here, or the keys chosen in the sheet", act: copy },
  { id: "paste", group: "Keys and columns", does: "paste it here", act: () => paste() },
  { id: "paste over", group: "Keys and columns", does: "paste it turned over", act: () => paste(true) },
  {
    id: "turn over",
    group: "Keys and columns",
    does: "turn the pose over: left and right change places",
    act: turnOver,
  },
  { id: "sheet", group: "Keys and columns", does: "open the sheet, and close it", act: () => toggleStrip("sheet") },
  {
    id: "graph",
    group: "Keys and columns",
    does: "open the graph of values, and close it",
    act: () => toggleStrip("graph"),
  },
  { id: "delete", group: "Keys and columns", does: "delete chosen keys or columns", act: deleteChosen },
  { id: "all columns", group: "Keys and columns", does: "choose all columns", act: chooseAllColumns },
  { id: "undo", group: "Keys and columns", does: "undo", act: undo },
  { id: "redo", group: "Keys and columns", does: "redo", act: redo },
  { id: "every frame", group: "Time", does: "every frame about the playhead, and all again", act: everyFrame },
  { id: "all time", group: "Time", does: "all of the shot", act: fitAll },
  { id: "chosen time", group: "Time", does: "what is chosen, or selected", act: fitChosen },
  { id: "time back", group: "Time", does: "shift back by a half of what is shown", act: () => pageTime(-0.5) },
  { id: "time on", group: "Time", does: "shift on by a half of what is shown", act: () => pageTime(0.5) },
  {
    id: "paths",
    group: "Looking",
    does: "draw the paths (arcs) of what is selected, or take them away",
    act: togglePaths,
  },
  { id: "move", group: "Posing", does: "move", act: () => takeTool("move") },
  { id: "turn", group: "Posing", does: "turn", act: () => takeTool("turn") },
  { id: "pull", group: "Posing", does: "pull: the body follows", act: takeUpPull },
  {
    id: "grip",
    group: "Posing",
    does: "grip what is selected: loose, firm, fast, none; while pulling, let a grip go",
    act: gripSelected,
  },
  { id: "axes", group: "Posing", does: "next axes: world, parent, own, view", act: nextAxes },
  {
    id: "pivot",
    group: "Posing",
    does: "drop a pivot under the pointer, to turn about",
    act: () => onStage.acts?.dropPivot(),
  },
  { id: "no pivot", group: "Posing", does: "take the pivot away", act: () => pivotAt(null) },
  { id: "limb", group: "Posing", does: "limb between IK and FK", act: switchSelected },
  { id: "reset", group: "Posing", does: "selection back to rest", act: () => reset(false) },
  { id: "reset all", group: "Posing", does: "all back to rest", act: () => reset(true) },
  { id: "select all", group: "Selecting", does: "the whole character", act: selectAll },
  { id: "select below", group: "Selecting", does: "add all below", act: selectBelow },
  { id: "other side", group: "Selecting", does: "the other side", act: selectOtherSide },
  {
    id: "flip",
    group: "Looking",
    does: "flip to before the last step while its amount is judged, or to what is compared with, and back",
    act: () => (judgedNow() && !desk().compared ? flipAmount() : flip()),
  },
  { id: "front", group: "Looking", does: "front", act: view("front") },
  { id: "side", group: "Looking", does: "side", act: view("side") },
  { id: "top", group: "Looking", does: "top", act: view("top") },
  { id: "back", group: "Looking", does: "back", act: view("back") },
  { id: "quarter", group: "Looking", does: "three-quarter", act: view("quarter") },
  { id: "camera", group: "Looking", does: "the shot camera", act: lookThrough },
  { id: "centre", group: "Looking", does: "centre the selection", act: frameOn("selection") },
  { id: "figure", group: "Looking", does: "the whole figure", act: frameOn("figure") },
  { id: "glass", group: "Looking", does: "see-through skin (glass)", act: skin("clear") },
  { id: "hide", group: "Looking", does: "hide controls: skin only", act: skin("only") },
  { id: "ghosts", group: "Looking", does: "ghosts of the neighbouring keys: one, two, none", act: ghosts },
  { id: "full", group: "Looking", does: "stage full, and back", act: () => setLooks({ full: !desk().looks.full }) },
];

/** What the pointer does, and keys that are not given away. */
export const HINTS = [
  { group: "Time", shown: "Wheel on it", does: "nearer, further; with Shift, or a right drag: shift" },
  { group: "Posing", shown: "Shift while dragging", does: "fine" },
  { group: "Posing", shown: "Ctrl while dragging", does: "in whole steps" },
  { group: "Posing", shown: "Escape", does: "leave the drag, keep the pose; stop playing; leave the full stage" },
  { group: "Selecting", shown: "Click", does: "select; Shift adds, Ctrl takes away" },
  { group: "Selecting", shown: "Drag", does: "all inside; Alt draws round it" },
  { group: "Looking", shown: "Right drag", does: "go round; with Shift, or middle: shift" },
  { group: "Looking", shown: "Wheel", does: "nearer, further" },
];
