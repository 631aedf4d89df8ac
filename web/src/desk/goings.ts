// Ways on the ground: told as they are gone, drawn, changed by hand and by number, and tried before they are laid.
import { ask, type ApiError, http, type Schemas } from "../api/client";
import { watch } from "./looking";
import { onStage } from "./onStage";
import { leaveTry, tryEdit } from "./posing";
import { commit, here, say } from "./steps";
import { active, canChange, desk, type DeskState, type Member, setDesk, useDesk } from "./store";
import type { Footfall, Way } from "../model/goings";
import type { AnyEdit } from "../model/types";

type Told = Schemas["WaysOut"];
type Place = [number, number, number];

const asked = (take_id: number, casting: number, frame: number) =>
  ask(http.GET("/api/takes/{take_id}/ways", { params: { path: { take_id }, query: { casting, frame } } }));

/** Keeps the ways of whom the tools act on told, as long as one works at them. */
export const watchWays = () =>
  watch<{ casting: number; told: Told }>({
    what: "ways",
    async ask(takeId) {
      const member = active();
      if (!member || member.prop) return null;
      const { frame } = desk();
      return { casting: member.id, told: await asked(takeId, member.id, frame) };
    },
    keep: (ways) => ({ ways }),
    also: (s) => [s.activeId, s.frame],
    first: 0,
    rest: 60,
  });

/** The ways of a figure, once they are told. */
export const waysOf = (member: Member | undefined, s: DeskState = desk()): Way[] =>
  member && s.ways?.casting === member.id ? s.ways.told.ways : [];

/** The way that is worked on: the one that is chosen, or the last that has begun at the playhead, or the first. */
export function wayNow(s: DeskState = desk()): Way | null {
  const ways = waysOf(active(s), s);
  const chosen = ways.find((way) => way.start === s.wayChosen?.start);
  return chosen ?? [...ways].reverse().find((way) => way.start <= s.frame) ?? ways[0] ?? null;
}

export const useWay = () => useDesk((s) => wayNow(s));

export const change = (edit: AnyEdit, member = active()) =>
  member ? commit(edit, { ...here(), casting: member.id }) : Promise.resolve(false);

// What is tried while a hand moves: one question at a time, the last one wins.
let wish: AnyEdit | null = null;
let asking = false;
let refused = "";

/** Shows how ways, and the pose at the playhead, would be after an edit, with what it comes to in words. */
export function tryWays(edit: AnyEdit, said: string) {
  wish = edit;
  setDesk({ readout: refused ? `${said}: ${refused}` : said });
  if (!asking) void askTried();
}

async function askTried() {
  const member = active();
  const edit = wish;
  wish = null;
  if (!member || !edit || !canChange()) return;
  asking = true;
  const { takeId, frame, revision } = desk();
  try {
    const body = { casting: member.id, frame, edit: { layer: 0, ...edit } } as Schemas["WaysTried"];
    const path = { take_id: takeId };
    const told = await ask(http.POST("/api/takes/{take_id}/ways/tried", { params: { path }, body }));
    const now = desk();
    if (now.takeId === takeId && now.revision === revision && held) {
      refused = "";
      setDesk({ ways: { casting: member.id, told } });
      tryEdit(edit);
    }
  } catch (error) {
    refused = (error as ApiError).message;
    if (held) setDesk({ readout: refused });
  } finally {
    asking = false;
    if (wish && held) void askTried();
  }
}

let held = false;
let before: DeskState["ways"] = null;

/** A hand begins to change a way; nothing is stored before it is let go. */
export function takeHold(): boolean {
  if (!canChange()) {
    say("You look as a guest here; ways are laid by an animator of the production.", true);
    return false;
  }
  held = true;
  refused = "";
  before = desk().ways;
  return true;
}

/** Everything is as it was. */
export function letGo() {
  held = false;
  wish = null;
  setDesk({ ways: before, readout: "" });
  leaveTry();
}

/** What the hand has done is stored. */
export async function lay(edit: AnyEdit): Promise<boolean> {
  held = false;
  wish = null;
  const made = await change(edit);
  setDesk({ readout: "" });
  if (!made) {
    setDesk({ ways: before });
    leaveTry();
  }
  return made;
}

// Drawing

/** The next clicks and strokes on the ground make a way. */
export function beginWay(standing: boolean) {
  const member = active();
  if (!member || !canChange()) return;
  onStage.acts?.frame("ground");
  setDesk({ wayDrawn: { casting: member.id, here: standing, points: [] }, readout: DRAW });
}
const DRAW = "Click along the ground, or draw with the button down. Enter lays the way, Escape leaves it.";

export function leaveWay(): boolean {
  if (!desk().wayDrawn) return false;
  setDesk({ wayDrawn: null, readout: "" });
  return true;
}

/** One place more of the way that is being drawn. */
export function placeOnWay(place: Place) {
  const { wayDrawn } = desk();
  if (wayDrawn) setDesk({ wayDrawn: { ...wayDrawn, points: [...wayDrawn.points, place] } });
}

/** The place before it again. */
export function takeBackPlace() {
  const { wayDrawn } = desk();
  if (wayDrawn) setDesk({ wayDrawn: { ...wayDrawn, points: wayDrawn.points.slice(0, -1) } });
}

/** Lays the way that was drawn, from the playhead on. */
export async function layWay(): Promise<boolean> {
  const { wayDrawn, frame, cast, takeId } = desk();
  const member = cast.find((m) => m.id === wayDrawn?.casting);
  if (!wayDrawn || !member) return false;
  const { points, here: standing } = wayDrawn;
  const drawn: Place[] = standing ? [standsAt(member), ...points] : points;
  if (drawn.length < 2) {
    say("A way goes through two places or more: click where it shall go.");
    return false;
  }
  setDesk({ wayDrawn: null, readout: "" });
  const places = drawn.map(([x, , z]) => ({ x, z, into: null, out: null }));
  const made = await layNew(
    { kind: "lay way", start: frame, points: places, here: standing, ...PLAIN, level: drawn[0][1] } as AnyEdit,
    member,
  );
  // What was drawn is still there where it could not be laid, unless something else has been begun.
  if (!made && !desk().wayDrawn && desk().takeId === takeId) setDesk({ wayDrawn, readout: DRAW });
  return made;
}

/** Stores a new way, which is the one that is worked on from then on. */
async function layNew(edit: AnyEdit, member = active()): Promise<boolean> {
  const made = await change(edit, member);
  if (made) setDesk({ wayChosen: null });
  return made;
}
const PLAIN = {
  closed: false,
  ends: true,
  lasts: 0,
  begins_with: "R" as const,
  lead: 8,
  speed: 0,
  turn: 0,
  gait: "" as const,
};

/** Turns on the spot from the playhead on, radians to the left. */
export const turnOnSpot = (turn: number) =>
  layNew({ kind: "lay way", start: desk().frame, points: [], here: true, ...PLAIN, turn, level: 0 });

/** Amidst the feet of who stands there now. */
export function standsAt(member: Member): Place {
  const legs = member.rig.limbs.filter((limb) => limb.kind === "leg");
  const places = legs.map((limb) => {
    const number = member.rig.controls.findIndex((c) => c.name === limb.ik);
    return member.pose.controls.subarray(number * 12, number * 12 + 3);
  });
  const middle = (k: number) => places.reduce((sum, p) => sum + p[k], 0) / Math.max(places.length, 1);
  return [middle(0), 0, middle(2)];
}

// Points and footfalls

/** The footfall that is chosen of a way. */
export const chosenFootfall = (way: Way | null, s: DeskState = desk()): Footfall | null =>
  way?.footfalls.find(
    (one) => one.number === s.wayChosen?.footfall?.number && one.leg === s.wayChosen?.footfall?.leg,
  ) ?? null;

export const chooseOnWay = (wayChosen: DeskState["wayChosen"]) => setDesk({ wayChosen });

/** The spans of footfalls of a foot on the strip, by its IK control. */
export const footfallsOf = (member: Member, control: string, s: DeskState = desk()) =>
  waysOf(member, s).flatMap((way) =>
    way.footfalls.filter((one) => one.control === control).map((one) => ({ way, footfall: one })),
  );
