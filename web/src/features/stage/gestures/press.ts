// A press where nothing is taken hold of: a click chooses, a drag draws an area.
import * as THREE from "three";
import { chooseNothing } from "../../../desk/choosing";
import { choosePlant } from "../../../desk/contacts";
import { howOf, select } from "../../../desk/selecting";
import { active, desk } from "../../../desk/store";
import { type Gesture, type Hand, TREMBLE } from "./gesture";

export function press(hand: Hand, from: THREE.Vector2): Gesture {
  const { scene } = hand;
  return {
    move(p, event) {
      if (from.distanceTo(p) > TREMBLE) hand.now = area(hand, from, p, event.altKey);
    },
    up(p, event) {
      const mark = scene.marks.under(p, scene.on);
      const member = active();
      const picked = scene.pick(p);
      // A mark on the ground, where nothing of a figure stands before it.
      if (mark && member && (!picked || picked.control === mark.control))
        choosePlant(member, mark.control, mark.start, Math.min(Math.max(desk().frame, mark.start), mark.end));
      else if (picked) select([picked.control], howOf(event), picked.member.id);
      else if (howOf(event) === "set") {
        select([]);
        chooseNothing();
      }
    },
  };
}

/** All inside is selected: of a box between two corners, or what was drawn round. */
function area({ scene, area: drawn }: Hand, from: THREE.Vector2, to: THREE.Vector2, lasso: boolean): Gesture {
  const points = [from, to];
  const outline = () => {
    const [a, b] = points;
    return lasso ? points : [a, new THREE.Vector2(b.x, a.y), b, new THREE.Vector2(a.x, b.y)];
  };
  const draw = (corners: THREE.Vector2[]) =>
    drawn?.setAttribute("points", corners.map((c) => `${c.x},${c.y}`).join(" "));
  return {
    move(p) {
      if (lasso) points.push(p);
      else points[1] = p;
      draw(outline());
    },
    up(_, event) {
      draw([]);
      select(scene.within(outline()), howOf(event));
    },
    cancel: () => draw([]),
  };
}
