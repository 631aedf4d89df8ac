// A mark of a path: its frame is gone to, and a drag then changes the pose there.
import type * as THREE from "three";
import { markPath } from "../../../desk/choosing";
import { beginDrag } from "../../../desk/dragging";
import { showFrame } from "../../../desk/frames";
import { go } from "../../../desk/playing";
import { holdOf, partOf } from "../../../desk/pulling";
import { actOn, select } from "../../../desk/selecting";
import { say } from "../../../desk/steps";
import { active, canChange, desk } from "../../../desk/store";
import { type Begin, type Gesture, graspOf, type Hand, standAt, TREMBLE } from "./gesture";
import { drag } from "./handle";

interface Mark {
  path: number;
  frame: number;
}

export const takeMark: Begin = (hand, from) => {
  const { scene } = hand;
  const mark = scene.gripAt(from) ? null : scene.paths.under(from);
  if (!mark) return undefined;
  let begun = false;
  const mine: Gesture = {
    move(p, event) {
      if (begun || from.distanceTo(p) <= TREMBLE || !canChange()) return;
      begun = true;
      void begin(hand, mine, mark, from, event.altKey);
    },
    up() {
      markPath(mark);
      actOn(desk().paths[mark.path]?.casting ?? desk().activeId);
      go(mark.frame);
    },
  };
  return mine;
};

/** Goes to the mark's frame and begins the drag there, unless it was let go meanwhile. */
async function begin(hand: Hand, mine: Gesture, mark: Mark, from: THREE.Vector2, follow: boolean) {
  const { scene } = hand;
  const path = desk().paths[mark.path];
  const place = scene.paths.placeOf(mark);
  if (!path || !place) return;
  markPath(mark);
  actOn(path.casting);
  await showFrame(mark.frame);
  if (hand.now !== mine) return;
  const member = active();
  const joint = member && path.joint ? member.rig.joints.indexOf(path.name) : -1;
  const pulled = member?.rig.parts.find((one) => one.joint === joint && !one.at.some(Boolean));
  const control = member?.controls.get(path.joint ? (pulled?.controls[0] ?? "") : path.name);
  if (!member || !control) return say("This joint is changed by the controls that lead it: pose those.");
  select([control.name], "set", member.id);
  const part = pulled ?? partOf(member, control.name);
  // What cannot be moved by itself is pulled: the body follows.
  const pull = path.joint || desk().tool === "pull" || !control.can_move || !!(control.limb && control.mode === "fk");
  if (pull && !part) return say(`${control.label} cannot be moved from its path: pose it by what carries it.`);
  if (!beginDrag(pull && part ? [holdOf(member, part)] : [control.name])) return;
  // By itself a limb in FK turns alone; the body follows where that is asked for: with Pull, or with Alt.
  const alone = pull && desk().tool !== "pull" && !follow && !!control.limb;
  hand.now = drag(hand, graspOf(hand, "free", standAt(place, "view"), from), { pull: pull && !!part, alone });
}
