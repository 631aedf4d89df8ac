// One drag at a time: on the stage or on a number. The server computes each pose; on release the values are committed.
import { showFrame, showPose } from "./frames";
import { socket } from "./opening";
import { stop } from "./playing";
import { setValues } from "./posing";
import { say } from "./steps";
import type { Live, LivePose } from "./live";
import { changeCompare } from "./comparing";
import { layerOf } from "./layers";
import { CONTROL } from "./motion";
import { watch, watched } from "./paths";
import { pullOf } from "./pulling";
import { commit, here, type Place } from "./steps";
import { active, canChange, desk, setDesk, modeOf, type Member } from "./store";
import type { Axes } from "./types";

export type Wish =
  | { do: "move"; offset: number[]; axes: Axes; view: number[] }
  | { do: "turn"; axis: number[]; angle: number; axes: Axes; view: number[]; pivot: number[] | null }
  | { do: "set"; values: Record<string, number> }
  | { do: "pull"; offset: number[] };

interface Drag {
  member: Member;
  /** The take, character and frame it was begun on: its step is made there, and its poses are asked for there. */
  place: Place;
  live: Live;
  controls: string[];
  wish: Wish | null;
  failed: boolean;
  /** Where all controls were when it was begun. */
  before: Float32Array;
  /** Its end, once it has been let go; a key that is pressed again and again moves it on until that is reached. */
  ending: Promise<boolean> | null;
}

let drag: Drag | null = null;
export const dragging = () => drag !== null;

/** Begins a drag of some controls; says why when it cannot. */
export function beginDrag(controls: string[]): boolean {
  const member = active();
  if (!member || drag) return false;
  if (!canChange()) {
    say("You look as a guest here; the lead can make you an animator.", true);
    return false;
  }
  if (desk().compared?.flipped) changeCompare({ flipped: false });
  const live = socket();
  if (!live?.open) {
    say(
      "The connection is lost, so nothing can be dragged. The page reconnects by itself; what was stored is kept.",
      true,
    );
    return false;
  }
  stop();
  const before = member.pose.controls.slice();
  setDesk({ along: null });
  const begun: Drag = { member, place: here(), live, controls, wish: null, failed: false, before, ending: null };
  drag = begun;
  live
    .ask({
      do: "begin",
      casting: member.id,
      frame: begun.place.frame,
      balance: desk().looks.weight,
      watch: watch() ?? { first: 0, last: 0, things: [], keying: "off", layer: layerOf(member) },
    })
    .catch((error: Error) => {
      begun.failed = true;
      say(error.message, true);
      if (drag === begun) cancelDrag();
    });
  return true;
}

const asked = (of: Drag) =>
  of.wish?.do === "pull"
    ? pullOf(of.member, of.controls, of.wish.offset)
    : { ...of.wish, controls: of.controls, sides: desk().sides };

function posed(of: Drag, pose: LivePose) {
  if (drag !== of || of.place.takeId !== desk().takeId) return;
  if (pose.said) {
    setDesk({ said: pose.said });
    watched(pose.said.paths);
  }
  showPose(pose, of.member.id);
}

/** The state of the drag now, always counted from its start. */
export function dragTo(wish: Wish, readout: string) {
  if (!drag) return;
  drag.wish = wish;
  const of = drag;
  setDesk({ readout });
  of.live.stream(asked(of), (pose) => posed(of, pose));
}

/** Asks again for the state of the drag, where what counts besides the hand has changed. */
export function askAgain() {
  if (drag?.wish) dragTo(drag.wish, desk().readout);
}

/** Lets go: the values where the hand was last are committed as one step. */
export function endDrag(label = ""): Promise<boolean> {
  const of = drag;
  if (!of) return Promise.resolve(false);
  of.ending ??= end(of, label);
  return of.ending;
}

/** The pose of the last state of a drag: one that the hand has moved on from meanwhile is asked for again. */
async function lastPose(of: Drag): Promise<LivePose> {
  for (;;) {
    const { wish } = of;
    try {
      const pose = await of.live.ask(asked(of));
      if (of.wish === wish) return pose;
    } catch (error) {
      if (of.wish === wish) throw error;
    }
  }
}

async function end(of: Drag, label: string): Promise<boolean> {
  if (!of.wish || of.failed) {
    cancelDrag();
    return false;
  }
  try {
    const pose = await lastPose(of);
    posed(of, pose);
    drag = null;
    const values: Record<string, number> = {};
    for (const [number, value] of pose.get(of.member.id)?.changed ?? [])
      values[of.member.rig.channels[number].address] = value;
    if (!Object.keys(values).length) {
      cancelDrag();
      return false;
    }
    // In a pull everything goes along on purpose.
    setDesk({ readout: "", along: of.wish.do === "pull" ? null : wentAlong(of) });
    return await setValues(values, label, of.place);
  } catch (error) {
    say((error as Error).message, true);
    cancelDrag();
    return false;
  }
}

/** The controls next below those that were dragged, if they went along, and where they were. */
function wentAlong({ member, controls, before, place }: Drag) {
  const moved = new Set(controls);
  const { controls: now } = member.pose;
  const places: Record<string, number[]> = {};
  member.rig.controls.forEach((control, n) => {
    if (!moved.has(control.parent) || moved.has(control.name) || !(control.can_move || control.can_turn)) return;
    if (control.mode && control.mode !== modeOf(member, control.limb)) return;
    const was = [...before.slice(n * CONTROL, n * CONTROL + 7)];
    if (was.some((value, i) => Math.abs(value - now[n * CONTROL + i]) > 1e-4)) places[control.name] = was;
  });
  return Object.keys(places).length ? { casting: member.id, frame: place.frame, places } : null;
}

/** Puts what went along back where it was in the world. */
export function putBack() {
  const { along, keying } = desk();
  setDesk({ along: null });
  if (!along) return;
  const { casting, frame, places } = along;
  return commit({ kind: "bring", frame, places, keying }, { ...here(), casting, frame });
}

export function cancelDrag() {
  drag = null;
  setDesk({ dragged: null, readout: "" });
  void showFrame(desk().frame);
}

/** One wish from start to end: a typed offset, a typed value. */
export async function act(controls: string[], wish: Wish, label = ""): Promise<boolean> {
  if (!beginDrag(controls)) return false;
  drag!.wish = wish;
  return endDrag(label);
}
