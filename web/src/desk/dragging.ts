// One drag at a time: on the stage or on a number. The server computes each pose; on release the values are committed.
import type { Basis } from "../model/types";
import { basisOf, revisionOf } from "./basis";
import { showFrame, showPose } from "./frames";
import { socket } from "./opening";
import { stop } from "./playing";
import { setValues } from "./posing";
import { say } from "./steps";
import { type Live, type LivePose, Passed } from "./live";
import { changeCompare } from "./comparing";
import { layerOf } from "./layers";
import { CONTROL } from "../model/motion";
import { watch, watched } from "./paths";
import { pullOf } from "./pulling";
import { commit, here, type MadeOn, outbox, type Place } from "./steps";
import { endTrial, readOut } from "./trying";
import { active, canChange, desk, setDesk, modeOf, type Member } from "./store";
import type { Axes, Message } from "../model/types";

export type Wish =
  | { do: "move"; offset: number[]; axes: Axes; view: number[] }
  | { do: "turn"; axis: number[]; angle: number; axes: Axes; view: number[]; pivot: number[] | null }
  | { do: "set"; values: Record<string, number> }
  | { do: "pull"; offset: number[]; alone?: boolean };

/** What is typed: a wish that is one step by itself; values may be added to those that are there. */
type OneStep = Exclude<Wish, { do: "pull" }> | { do: "add"; values: Record<string, number> };

interface Drag {
  member: Member;
  /** The take, character and frame it was begun on: its step is made there, and its poses are asked for there. */
  place: Place;
  live: Live;
  controls: string[];
  wish: Wish | null;
  /** Where it counts from, once the server has begun it. */
  basis: Basis | null;
  /** Where all controls were when it was begun. */
  before: Float32Array;
  /** What the server said last, and of which wish. */
  seen: { wish: Wish; pose: LivePose } | null;
  /** Whether the server has begun it, or why not; the drag before it has to be at its end for that. */
  begun: Promise<string>;
  /** Left without an end: nothing of it is stored. */
  cancelled: boolean;
  /** Its end, once it has been let go; a key that is pressed again and again moves it on until that is reached. */
  ending: Promise<boolean> | null;
}

let drag: Drag | null = null;
/** Whether something is dragged, or (given controls) just those. */
export const dragging = (controls?: string[]) =>
  drag !== null &&
  (!controls || (controls.length === drag.controls.length && controls.every((c) => drag!.controls.includes(c))));

/** Begins a drag of some controls; says why when it cannot. One that was let go before comes to its end first. */
export function beginDrag(controls: string[]): boolean {
  const member = active();
  if (!member || (drag && !drag.ending)) return false;
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
  setDesk({ along: null });
  const last = drag?.ending;
  const of: Drag = {
    member,
    place: here(),
    live,
    controls,
    wish: null,
    basis: null,
    before: member.pose.controls,
    seen: null,
    cancelled: false,
    begun: Promise.resolve(""),
    ending: null,
  };
  of.begun = begin(of, last ?? null);
  drag = of;
  return true;
}

/** Begins it on the server, on the pose that one's own steps before have led to. An empty string when it stands. */
async function begin(of: Drag, last: Promise<boolean> | null): Promise<string> {
  await last?.catch(() => undefined);
  await outbox.settled();
  // One that was let go meanwhile is still made: the next one waits for its end.
  if (of.cancelled) return "it was left before it began";
  of.before = of.member.pose.controls.slice();
  const { casting, frame, takeId } = { ...of.place, casting: of.member.id };
  const layer = layerOf(of.member);
  const told = {
    balance: desk().looks.weight,
    watch: watch() ?? { first: 0, last: 0, things: [], keying: "off", layer },
  };
  try {
    const pose = await of.live.ask({ do: "begin", casting, frame, ...told });
    of.basis = basisOf(takeId, pose.said?.revision ?? revisionOf(takeId));
    of.live.trace((paths) => {
      if (drag === of && of.place.takeId === desk().takeId) watched(paths);
    });
    if (drag === of && of.wish) stream(of);
    return "";
  } catch (error) {
    const why = (error as Error).message;
    if (drag === of && !of.ending) {
      say(why, true);
      cancelDrag();
    }
    return why;
  }
}

const asked = (of: Drag, wish: Wish): Message =>
  wish.do === "pull"
    ? pullOf(of.member, of.controls, wish.offset, wish.alone)
    : { ...wish, controls: of.controls, sides: desk().sides };

function posed(of: Drag, wish: Wish, pose: LivePose) {
  of.seen = { wish, pose };
  if (drag !== of || of.place.takeId !== desk().takeId) return;
  if (pose.said) setDesk({ said: pose.said });
  showPose(pose, of.member.id);
}

function stream(of: Drag) {
  const wish = of.wish!;
  of.live.stream(asked(of, wish), (pose) => posed(of, wish, pose));
}

/** The state of the drag now, always counted from its start. */
export function dragTo(wish: Wish, readout: string) {
  if (!drag) return;
  drag.wish = wish;
  readOut(readout);
  if (drag.basis) stream(drag);
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

/**
 * The pose of the last state of a drag: one that the hand has moved on from meanwhile is asked for again, and so is one
 * whose place was taken, as by the same state that still waited to be streamed.
 */
async function lastPose(of: Drag): Promise<LivePose> {
  for (;;) {
    const { wish } = of;
    try {
      const pose = await of.live.ask(asked(of, wish!));
      if (of.wish === wish) return pose;
    } catch (error) {
      if (of.wish === wish && !(error instanceof Passed)) throw error;
    }
  }
}

async function end(of: Drag, label: string): Promise<boolean> {
  const failed = await of.begun;
  if (!of.wish) {
    if (drag === of) cancelDrag();
    return false;
  }
  const pull = of.wish.do === "pull";
  const on = { basis: of.basis ?? undefined, read: pull ? of.place.frame : null };
  try {
    if (failed) throw new Error(failed);
    const { wish } = of;
    posed(of, wish, await lastPose(of));
  } catch (error) {
    // What the hand did last may have been seen all the same; a way in the world needs no socket to be made.
    const seen = of.seen?.wish === of.wish;
    if (!seen && !of.live.open && of.wish.do !== "pull") {
      leave(of);
      return byHand(of.controls, of.wish, label, of.place, on);
    }
    if (!seen) {
      say(`${(error as Error).message} What was dragged last was not stored.`, true);
      leave(of);
      return false;
    }
  }
  leave(of, true);
  const values: Record<string, number> = {};
  for (const [number, value] of of.seen!.pose.get(of.member.id)?.changed ?? [])
    values[of.member.rig.channels[number].address] = value;
  if (!Object.keys(values).length) {
    if (!drag) cancelDrag();
    return false;
  }
  // In a pull everything goes along on purpose.
  if (!drag) setDesk({ readout: "", along: pull ? null : wentAlong(of) });
  return setValues(values, label, of.place, on);
}

/** A drag is over; what it showed is left on the stage where its step is on its way. */
function leave(of: Drag, kept = false) {
  if (drag !== of) return;
  drag = null;
  if (!kept) cancelDrag();
}

/** The controls next below those that were dragged, if they went along, and where they were. */
type Done = Pick<Drag, "member" | "controls" | "before" | "place">;

function wentAlong({ member, controls, before, place }: Done) {
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
  if (drag) drag.cancelled = true;
  drag = null;
  endTrial();
  void showFrame(desk().frame);
}

/** What a hand does, as one step that needs no drag: what is typed is never lost to one that is under way. */
function byHand(controls: string[], wish: OneStep, what: string, place: Place, on: MadeOn = {}) {
  const { keying, kinds, shape, sides } = desk();
  const given = { by: [0, 0, 0], angle: 0, axes: "world" as Axes, view: [0, 0, 0, 1], pivot: null, values: null };
  const how =
    wish.do === "move"
      ? { ...given, by: wish.offset, axes: wish.axes, view: wish.view }
      : wish.do === "turn"
        ? { ...given, by: wish.axis, angle: wish.angle, pivot: wish.pivot, axes: wish.axes, view: wish.view }
        : { ...given, values: wish.values };
  const step = {
    kind: "by hand" as const,
    frame: place.frame,
    controls,
    way: wish.do,
    keying,
    kinds,
    shape,
    sides,
    what,
  };
  return commit({ ...step, ...how }, place, on);
}

/** Pulls that were typed, one after the other. */
let typed: Promise<unknown> = Promise.resolve();

/** One wish from start to end: a typed offset, a typed value. */
export async function act(controls: string[], wish: Wish | OneStep, label = ""): Promise<boolean> {
  if (wish.do === "pull") {
    const pulled = typed.then(async () => {
      await drag?.ending?.catch(() => undefined);
      if (!beginDrag(controls)) return false;
      drag!.wish = wish;
      return endDrag(label);
    });
    typed = pulled.catch(() => undefined);
    return pulled;
  }
  const member = active();
  if (!member) return false;
  stop();
  const place = here();
  const before = member.pose.controls.slice();
  const stored = await byHand(controls, wish, label, place);
  const now = active();
  if (stored && now?.id === member.id && desk().frame === place.frame && desk().takeId === place.takeId)
    setDesk({ along: wentAlong({ member: now, controls, before, place }) });
  return stored;
}
